import { dirname } from 'node:path';
import { fileURLToPath } from 'node:url';
import { context, build } from 'esbuild';

/** Builds server, command line and the programs of their threads into dist/; with --watch, again at every change. */
const root = dirname(dirname(fileURLToPath(import.meta.url)));
const options = {
  absWorkingDir: root,
  entryPoints: {
    server: 'server/main.ts',
    inkavo: 'cli/main.ts',
    demo: 'demo/main.ts',
    'threads/export': 'media/export/thread.ts',
    'threads/tasks': 'media/threads/program.ts',
  },
  outdir: 'dist',
  outExtension: { '.js': '.cjs' },
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'cjs',
  sourcemap: 'linked',
  // They look up files of their own at run time (a compiled part, drivers, a thread's program, fonts), or are large and
  // seldom used.
  external: ['better-sqlite3', 'knex', 'piscina', 'pdfkit', 'selfsigned'],
  logLevel: 'warning',
};

if (process.argv.includes('--watch')) await (await context(options)).watch();
else await build(options);

import { execFile, spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import { promisify } from 'node:util';
import { repositoryRoot } from '@inkavo/media/root';

/** Whether this module (file name without extension) is the main program. */
export const isProgram = (name: string): boolean => basename(process.argv[1] ?? '').startsWith(`${name}.`);

/**
 * Runs a script in a separate process and returns its output; its errors are shown. It is bundled first, which made it
 * a fifth faster than separate modules. Throws an Error for a non-zero exit status.
 */
export async function ownProcess(file: string, args: readonly string[]): Promise<string> {
  const built = join(repositoryRoot(), 'dist');
  mkdirSync(built, { recursive: true });
  const folder = mkdtempSync(join(built, 'own-'));
  try {
    const outfile = join(folder, `${basename(file, extname(file))}.cjs`);
    const asked = ['--bundle', '--platform=node', '--target=node20', '--sourcemap=inline', '--log-level=warning'];
    await promisify(execFile)(join(repositoryRoot(), 'node_modules/.bin/esbuild'), [
      file,
      `--outfile=${outfile}`,
      ...asked,
    ]);
    const child = spawn(process.execPath, ['--enable-source-maps', outfile, ...args], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const chunks: Buffer[] = [];
    child.stdout.on('data', (c: Buffer) => chunks.push(c));
    const code = await new Promise((resolve) => child.on('close', resolve));
    if (code !== 0) throw new Error(`${file} ended with ${String(code)}.`);
    return Buffer.concat(chunks).toString();
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

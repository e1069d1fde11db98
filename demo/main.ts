import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { renderScene } from './render';
import { SCENES } from './scenes';

/** Where the footage lies: `card` is laid out as a memory card. */
export const FOOTAGE = process.env.INKAVO_FOOTAGE ?? join(__dirname, 'footage');
export const CARD = join(FOOTAGE, 'card', 'DCIM');

/** A digest of everything the pictures depend on, so that they are made again when it changes. */
function sourceDigest(): string {
  const hash = createHash('sha256');
  const folders = [
    __dirname,
    join(__dirname, 'scenes'),
    join(__dirname, '../core/colour'),
    join(__dirname, '../core/model'),
  ];
  const files = folders.flatMap((d) =>
    readdirSync(d)
      .filter((f) => f.endsWith('.ts') && !f.includes('.test.'))
      .map((f) => join(d, f)),
  );
  const relevant = files.filter((f) => !/demo\/main\.ts$|lab\.ts$|difference\.ts$|model\/(?!profile)/.test(f));
  relevant.push(join(__dirname, 'known/spectra.ts'), join(__dirname, '../core/steps/water/waters.ts'));
  for (const f of relevant.sort()) hash.update(readFileSync(f));
  return hash.digest('hex');
}

/** Renders the footage unless it is there already and current. Two scenes at a time, each in a process of its own. */
export async function ensureFootage(say: (line: string) => void): Promise<void> {
  const stampFile = join(FOOTAGE, 'made-from');
  const digest = sourceDigest();
  if (existsSync(stampFile) && readFileSync(stampFile, 'utf8') === digest) return say('The demo footage is there.');
  rmSync(FOOTAGE, { recursive: true, force: true });
  mkdirSync(CARD, { recursive: true });
  say('Rendering the demo footage, once (three to four minutes) …');
  const waiting = [...SCENES];
  const work = async (): Promise<void> => {
    for (let scene = waiting.shift(); scene; scene = waiting.shift()) {
      const { file } = scene;
      const started = Date.now();
      await new Promise<void>((resolve, reject) => {
        const child = spawn(process.execPath, ['--require', 'tsx/cjs', __filename, file], {
          stdio: 'inherit',
          env: process.env,
        });
        child.on('close', (code) => (code === 0 ? resolve() : reject(new Error(`Rendering ${file} failed.`))));
      });
      say(`  ${file}: ${((Date.now() - started) / 1000).toFixed(0)} s`);
    }
  };
  await Promise.all([work(), work()]);
  writeFileSync(stampFile, digest);
}

if (require.main === module) {
  const only = SCENES.find((s) => s.file === process.argv[2]);
  const work = only ? renderScene(only, CARD) : ensureFootage((line) => console.log(line));
  work.catch((error: Error) => {
    console.error(error.message);
    process.exitCode = 1;
  });
}

import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { repositoryRoot } from '@inkavo/media/root';

const ROOT = repositoryRoot();
/** Location of the footage: `card` is laid out like a memory card. */
export const FOOTAGE = process.env.INKAVO_FOOTAGE ?? join(ROOT, 'demo', 'footage');
export const CARD = join(FOOTAGE, 'card', 'DCIM');

/** Everything that the pictures depend on. */
const SOURCES = [
  ...['camera', 'noise', 'patches', 'plate', 'render'].map((name) => `demo/${name}.ts`),
  ...['bank', 'copter', 'dive', 'helmet', 'jetty', 'sky'].map((name) => `demo/scenes/${name}.ts`),
  'demo/known/spectra.ts',
  'core/model/profile.ts',
  'core/steps/water/waters.ts',
];

function sourceDigest(): string {
  const colour = readdirSync(join(ROOT, 'core/colour'))
    .filter((f) => f.endsWith('.ts') && !/\.test\.|^lab|^difference/.test(f))
    .map((f) => `core/colour/${f}`);
  const hash = createHash('sha256');
  for (const path of [...SOURCES, ...colour].sort()) hash.update(readFileSync(join(ROOT, path)));
  return hash.digest('hex');
}

/** Empties the footage's folder unless its contents were made from the current sources. */
export function freshFolder(): void {
  const stamp = join(FOOTAGE, 'made-from');
  const digest = sourceDigest();
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === digest) return;
  rmSync(FOOTAGE, { recursive: true, force: true });
  mkdirSync(CARD, { recursive: true });
  writeFileSync(stamp, digest);
}

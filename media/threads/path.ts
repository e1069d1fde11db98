import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { repositoryRoot } from '../root';

/** The programs that run in threads, as `scripts/bundle.mjs` builds them. */
export type ThreadName = 'export' | 'tasks';

/** Path of a thread's compiled program. Throws an Error when it has not been built. */
export function threadProgram(name: ThreadName): string {
  const path = join(repositoryRoot(), 'dist', 'threads', `${name}.cjs`);
  if (!existsSync(path)) throw new Error(`${path} is missing: run "node scripts/bundle.mjs".`);
  return path;
}

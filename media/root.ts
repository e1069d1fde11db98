import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** The repository's folder, from sources as well as from the compiled programs in `dist/`. */
export function repositoryRoot(): string {
  for (let folder = __dirname; ; folder = dirname(folder)) {
    if (existsSync(join(folder, 'core', 'package.json'))) return folder;
    if (folder === dirname(folder)) throw new Error(`No folder above ${__dirname} holds the repository.`);
  }
}

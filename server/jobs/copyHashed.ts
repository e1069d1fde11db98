import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, statSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Work } from './runner';

/** Makes sure that a finished file is on the disk, not only in memory. */
export async function sync(path: string): Promise<void> {
  const file = await open(path, 'r');
  await file.sync();
  await file.close();
}

/** Copies a file and gives its SHA-256. The copy is whole and on the disk when this resolves. */
export async function copyHashed(
  from: string,
  to: string,
  { signal, progress }: Pick<Work, 'signal' | 'progress'>,
): Promise<string> {
  const { size } = statSync(from);
  const hash = createHash('sha256');
  let done = 0;
  let told = 0;
  const watch = new Transform({
    transform(chunk: Buffer, _encoding, next) {
      hash.update(chunk);
      done += chunk.length;
      if (done - told > size / 50) {
        told = done;
        progress((0.9 * done) / size);
      }
      next(null, chunk);
    },
  });
  await pipeline(createReadStream(from), watch, createWriteStream(to), { signal });
  await sync(to);
  return hash.digest('hex');
}

import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, linkSync, rmSync, statSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { Transform, Writable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Work } from './runner';

/** Bytes per read. */
const CHUNK = 1 << 20;

/** Syncs a finished file to disk. */
export async function sync(path: string): Promise<void> {
  const file = await open(path, 'r');
  await file.sync();
  await file.close();
}

type Told = Pick<Work, 'signal' | 'progress'>;

/** Reads a whole file and returns its SHA-256. */
async function hashed(from: string, into: Writable, { signal, progress }: Told): Promise<string> {
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
  await pipeline(createReadStream(from, { highWaterMark: CHUNK }), watch, into, { signal });
  return hash.digest('hex');
}

/** Copies a file and returns its SHA-256. The copy is complete and synced when this resolves. */
export async function copyHashed(from: string, to: string, work: Told): Promise<string> {
  const hash = await hashed(from, createWriteStream(to), work);
  await sync(to);
  return hash;
}

/**
 * Hard-links a file that nobody else writes to, and returns its SHA-256. Falls back to a copy where the file system has
 * no hard links.
 */
export async function linkHashed(from: string, to: string, work: Told): Promise<string> {
  rmSync(to, { force: true });
  try {
    linkSync(from, to);
  } catch {
    return copyHashed(from, to, work);
  }
  const nowhere = new Writable({ write: (_chunk, _encoding, next) => next() });
  const hash = await hashed(to, nowhere, work);
  await sync(to);
  return hash;
}

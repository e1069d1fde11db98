import { createHash } from 'node:crypto';
import { createReadStream, existsSync, lstatSync, renameSync, rmSync, statSync } from 'node:fs';
import { statfs } from 'node:fs/promises';
import { join, parse } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { MediaError } from '@inkavo/media/codec';
import { isDiskFull } from '../diskSpace';
import { copyHashed } from './copyHashed';
import type { Work } from './runner';

async function sha256(path: string, signal: AbortSignal): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash, { signal });
  return hash.digest('hex');
}

/** Candidate names of a file: its own, then with a number. */
function* namesFor(name: string): Generator<string> {
  yield name;
  const { name: stem, ext } = parse(name);
  for (let n = 2; ; n += 1) yield `${stem} (${n})${ext}`;
}

/**
 * Copies a file into a folder atomically, without overwriting. Resolves with the resulting path; if the same file is
 * already there, with that. Throws a {@link MediaError} with a message.
 */
export async function copyInto(
  from: string,
  { folder, name, id }: { folder: string; name: string; id: string },
  work: Pick<Work, 'signal' | 'progress'>,
): Promise<string> {
  if (!existsSync(from)) throw new MediaError(`${name} is not here any more.`);
  if (!existsSync(folder)) throw new MediaError(`${folder} is not there. ${name} is still here.`);
  const { bavail, bsize } = await statfs(folder);
  const { size } = statSync(from);
  if (bavail * bsize < size)
    throw new MediaError(
      `There is no room in ${folder}: ${Math.ceil(size / 1e6)} MB are needed. ${name} is still here.`,
    );
  const part = join(folder, `.inkavo-${id}.part`);
  try {
    const hash = await copyHashed(from, part, work);
    for (const free of namesFor(name)) {
      const path = join(folder, free);
      const there = lstatSync(path, { throwIfNoEntry: false });
      if (!there) {
        renameSync(part, path);
        return path;
      }
      // The program may have crashed between copying and recording it.
      if (there.isFile() && there.size === size && (await sha256(path, work.signal)) === hash) return path;
    }
    throw new Error('There are names without end.');
  } catch (error) {
    if (work.signal.aborted) throw error;
    if (isDiskFull(error)) throw new MediaError(`${folder} is full. ${name} is still here.`);
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS')
      throw new MediaError(`The server may not write into ${folder}. ${name} is still here.`);
    if (code === 'ENOENT' || code === 'EIO')
      throw new MediaError(`${folder} was taken out while it was written. ${name} is still here.`);
    throw error;
  } finally {
    rmSync(part, { force: true });
  }
}

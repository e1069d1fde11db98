import { closeSync, fsyncSync, openSync, renameSync, writeSync } from 'node:fs';

/** Writes a file atomically: to a temporary file, synced, then renamed. */
export function writeWhole(path: string, content: string | Uint8Array): void {
  const part = `${path}.part`;
  const file = openSync(part, 'w');
  try {
    const bytes = typeof content === 'string' ? Buffer.from(content) : content;
    let done = 0;
    while (done < bytes.length) done += writeSync(file, bytes, done);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  renameSync(part, path);
}

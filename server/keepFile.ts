import { randomUUID } from 'node:crypto';
import { rename, writeFile } from 'node:fs/promises';

/** Writes a reproducible file atomically, without syncing: a power failure may lose it. */
export async function keepFile(path: string, content: Buffer): Promise<void> {
  const part = `${path}.${randomUUID()}.part`;
  await writeFile(part, content);
  await rename(part, path);
}

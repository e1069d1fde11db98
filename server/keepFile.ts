import { randomUUID } from 'node:crypto';
import { rename, writeFile } from 'node:fs/promises';

/** Puts a file that can be made again into its place, whole or not at all; a power cut may cost it. */
export async function keepFile(path: string, content: Buffer): Promise<void> {
  const part = `${path}.${randomUUID()}.part`;
  await writeFile(part, content);
  await rename(part, path);
}

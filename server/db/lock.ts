import { join } from 'node:path';
import Database from 'better-sqlite3';

/** Another server works in this data folder. */
export class FolderInUse extends Error {
  constructor(folder: string) {
    super(`Another server uses the data folder ${folder}. Stop it first, or set INKAVO_DATA to another folder.`);
  }
}

/**
 * Takes a data folder for this process, and gives what releases it. The lock is one of the operating system's, held
 * through an empty database: when the process dies, however that happens, it is free at that moment, with no file to
 * go stale. Throws {@link FolderInUse}.
 */
export function lockFolder(folder: string): () => void {
  const db = new Database(join(folder, 'lock.db'), { timeout: 0 });
  try {
    db.pragma('locking_mode = EXCLUSIVE');
    db.exec('BEGIN EXCLUSIVE');
  } catch (error) {
    db.close();
    if (String((error as { code?: string }).code).startsWith('SQLITE_BUSY')) throw new FolderInUse(folder);
    throw error;
  }
  return () => void db.close();
}

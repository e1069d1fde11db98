import { join } from 'node:path';
import Database from 'better-sqlite3';

/** Another server uses this data folder. */
export class FolderInUse extends Error {
  constructor(folder: string) {
    super(`Another server uses the data folder ${folder}. Stop it first, or set INKAVO_DATA to another folder.`);
  }
}

/**
 * Locks a data folder for this process; returns a function that releases the lock. It is an operating system lock, held
 * through an empty database: it is released when the process dies, however that happens, and no lock file can go stale.
 * Throws {@link FolderInUse}.
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

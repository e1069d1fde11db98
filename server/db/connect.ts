import knex, { type Knex } from 'knex';
import { MIGRATIONS } from './migrations';

interface RawConnection {
  pragma(text: string): void;
}

/** The database's calls block the event loop, so another program's lock is waited for no longer than this. */
const BUSY_MS = 200;

/**
 * Opens the database and runs migrations. Committed transactions survive a crash of the program and of the machine:
 * write-ahead log, synced at every commit.
 */
export async function openDatabase(filename: string): Promise<Knex> {
  const db = knex({
    client: 'better-sqlite3',
    connection: { filename },
    useNullAsDefault: true,
    pool: {
      min: 1,
      max: 1,
      afterCreate: (connection: RawConnection, done: (error: Error | null, c: RawConnection) => void) => {
        connection.pragma('journal_mode = WAL');
        connection.pragma('synchronous = FULL');
        connection.pragma('foreign_keys = ON');
        connection.pragma(`busy_timeout = ${BUSY_MS}`);
        done(null, connection);
      },
    },
  });
  await db.migrate.latest({
    migrationSource: {
      getMigrations: async () => MIGRATIONS,
      getMigrationName: (m: (typeof MIGRATIONS)[number]) => m.name,
      getMigration: async (m: (typeof MIGRATIONS)[number]) => m,
    },
  });
  return db;
}

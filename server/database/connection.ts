import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import knexFactory, { type Knex } from 'knex';
import { Changes } from './changes';
import { type Connection, SqliteClient, watchOthers } from './client';
import { MIGRATIONS } from './migrations';

export type Database = Knex;

/**
 * Opens the database file (made when missing; ':memory:' for tests) and brings it to the newest migration.
 * WAL and full durability; foreign keys are enforced.
 */
export async function openDatabase(file: string): Promise<Database> {
  if (file !== ':memory:') mkdirSync(dirname(file), { recursive: true });
  const db = connect(file, ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 5000', 'cache_size = -65536']);
  const migrations = {
    migrationSource: {
      getMigrations: async () => MIGRATIONS.map((m) => m.name),
      getMigrationName: (name: string) => name,
      getMigration: async (name: string) => {
        const migration = MIGRATIONS.find((m) => m.name === name);
        if (!migration) throw new Error(`There is no migration ${name}.`);
        return { up: migration.up, down: migration.down };
      },
    },
  };
  try {
    // a start that was killed while it migrated has left its lock; each migration is a transaction, so nothing else is left
    await db.migrate.forceFreeMigrationsLock(migrations);
    await db.migrate.latest(migrations);
  } catch (e) {
    await db.destroy();
    throw e;
  }
  if (file !== ':memory:') await countWithOthers(db);
  return db;
}

async function countWithOthers(db: Database): Promise<void> {
  const client = db.client as { acquireConnection(): Promise<Connection>; releaseConnection(connection: Connection): Promise<void> };
  const connection = await client.acquireConnection();
  try {
    watchOthers(connection, changesOf(db));
  } finally {
    await client.releaseConnection(connection);
  }
}

/** What notes when tables were written; the same for a database and its transactions. */
export const changesOf = (db: Database): Changes => (db.client as { readonly config: { readonly changes: Changes } }).config.changes;

/** Opens a database file that stands already, only to read it: beside the connection that writes. */
export const openToRead = (file: string): Database => connect(file, ['busy_timeout = 5000', 'cache_size = -32768'], { readonly: true });

/** One connection, with what it is told first. */
function connect(file: string, pragmas: readonly string[], options: object = {}): Database {
  // Knex hands its settings on to the clients it makes for transactions, and with them what is not its own
  const only: { connection: Connection | null } = { connection: null };
  const shared = { changes: new Changes(), only };
  return knexFactory({
    ...shared,
    client: SqliteClient,
    connection: { filename: file, options } as Knex.Config['connection'],
    useNullAsDefault: true,
    // what goes wrong is thrown, and told once with a sentence (see trouble.ts), not written out with its trace beside
    log: {
      warn: (message: unknown) => void (String(message).startsWith('Acquire connection error') || console.warn(message)),
      error: () => undefined,
      debug: () => undefined,
      deprecate: console.warn,
    },
    pool: {
      min: 1,
      max: 1,
      afterCreate(connection: Connection, done: (error: Error | null, connection: unknown) => void) {
        only.connection = connection;
        for (const pragma of pragmas) connection.pragma(pragma);
        done(null, connection);
      },
    },
  });
}

/** Closes a database so that its file alone is whole: what stands in the log beside it is brought into it first. */
export async function closeDatabase(db: Database): Promise<void> {
  await db.raw('PRAGMA wal_checkpoint(TRUNCATE)').catch(() => undefined);
  await db.destroy();
}

/** Whether something could not be deleted because other rows name it. */
export const isStillReferenced = (e: unknown): boolean =>
  String((e as { code?: unknown } | null)?.code ?? '').startsWith('SQLITE_CONSTRAINT');

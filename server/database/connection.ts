import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import BetterSqlite3 from 'better-sqlite3';
import knexFactory, { type Knex } from 'knex';
import pg from 'pg';
import { Changes } from './changes';
import { type Connection, type Connections, SqliteClient, type Turn, watchOthers } from './client';
import { dialectOf } from './dialect';
import { MIGRATIONS } from './migrations';
import { MIGRATING, PostgresClient, STARTING, type PostgresShared, TYPES, hearOthers, sharedOf } from './postgres';

export type Database = Knex;

/** Whether a database is named by a connection string of PostgreSQL, and not by a file. */
export const isServer = (where: string): boolean => /^postgres(ql)?:\/\//.test(where);

/**
 * Opens a database and brings it to the newest migration: a file (made when missing; ':memory:' for tests), with a log ahead and full
 * durability, or a database of a PostgreSQL server, by its connection string. Foreign keys are enforced.
 */
export async function openDatabase(where: string): Promise<Database> {
  if (isServer(where)) return openServer(where);
  if (where !== ':memory:') mkdirSync(dirname(where), { recursive: true });
  const db = connect(where, WRITING);
  try {
    await migrate(db);
  } catch (e) {
    await db.destroy();
    throw e;
  }
  if (where !== ':memory:') await countWithOthers(db);
  return db;
}

/** Does something while no other process does something so with the same database of a server: what is done once, at a start. */
export async function aloneOnServer(url: string, work: () => Promise<void>, lock: number = STARTING): Promise<void> {
  const alone = new pg.Client({ connectionString: url });
  await alone.connect();
  try {
    await alone.query(`SELECT pg_advisory_lock(${lock})`);
    await work();
  } finally {
    await alone.end();
  }
}

/** The database of a server. Processes that start beside each other migrate one after the other. */
async function openServer(url: string): Promise<Database> {
  const shared = sharedOf(new Changes(), true);
  const db = server(url, shared);
  try {
    await aloneOnServer(url, async () => {
      // what SQLite has and PostgreSQL calls otherwise
      await db.raw(INSTR);
      await migrate(db);
    }, MIGRATING); // prettier-ignore
    closing.set(db, await hearOthers(url, shared.changes, shared.process));
  } catch (e) {
    await db.destroy();
    throw e;
  }
  return db;
}
const INSTR =
  'CREATE OR REPLACE FUNCTION instr(text, text) RETURNS integer LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE RETURN strpos($1, $2)';
/** What else is to be closed with a database. */
const closing = new WeakMap<Database, () => Promise<void>>();

function server(url: string, shared: PostgresShared): Database {
  return knexFactory({
    ...shared,
    client: PostgresClient as unknown as typeof Knex.Client,
    connection: { connectionString: url, types: TYPES } as Knex.Config['connection'],
    log: QUIET,
    pool: { min: 0, max: CONNECTIONS },
  });
}
/** Connections to a server that one process holds at most: one writes, others read, and those that are to write wait with theirs. */
const CONNECTIONS = 8;

async function migrate(db: Database): Promise<void> {
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
  // a start that was killed while it migrated has left its lock; each migration is a transaction, so nothing else is left
  await db.migrate.forceFreeMigrationsLock(migrations);
  await db.migrate.latest(migrations);
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

/** Opens a database that stands already, only to read it: beside the connection that writes. */
export const openToRead = (where: string): Database =>
  isServer(where) ? server(where, sharedOf(new Changes(), false)) : connect(where, READING, { readonly: true });
/** Opens a file that stands already, to write to it in turn with the connection that usually does: see `holdWriters`. */
export const openToWrite = (file: string, turn: Turn): Database => connect(file, WRITING, {}, turn);
/** Lets a database of a file that is only read note which tables others write: call before anything is kept of it. On a server nothing is noted so. */
export const noteOthers = (db: Database): Promise<void> => (dialectOf(db).name === 'sqlite' ? countWithOthers(db) : Promise.resolve());
/** What a connection that writes is told first. */
const WRITING = ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 5000', 'cache_size = -65536'];
/** What a connection that only reads is told first. */
const READING = ['busy_timeout = 5000', 'cache_size = -32768'];

/** What goes wrong is thrown, and told once with a sentence (see trouble.ts), not written out with its trace beside. */
const QUIET = {
  warn: (message: unknown) => void (String(message).startsWith('Acquire connection error') || console.warn(message)),
  error: () => undefined,
  debug: () => undefined,
  deprecate: console.warn,
};

/** One connection, with what it is told first. */
function connect(file: string, pragmas: readonly string[], options: object = {}, turn?: Turn): Database {
  // Knex hands its settings on to the clients it makes for transactions, and with them what is not its own
  const only: Connections = {
    connection: null,
    reader: null,
    openReader:
      file === ':memory:'
        ? null
        : () => {
            const reader = new BetterSqlite3(file, { readonly: true }) as unknown as Connection;
            for (const pragma of READING) reader.pragma(pragma);
            return reader;
          },
  };
  const shared = { changes: new Changes(), only, turn };
  return knexFactory({
    ...shared,
    client: SqliteClient,
    connection: { filename: file, options } as Knex.Config['connection'],
    useNullAsDefault: true,
    // a million rows of a table that are written anew may take longer than Knex would wait for the one connection
    acquireConnectionTimeout: 600_000,
    log: QUIET,
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

/**
 * Keeps everybody in this process from writing to a file, until what is given is called: whoever writes waits for the one connection, and not
 * in SQLite, where all would wait with them. Meanwhile another connection may write, and everybody reads.
 */
export async function holdWriters(db: Database): Promise<() => Promise<void>> {
  const client = db.client as { acquireConnection(): Promise<Connection>; releaseConnection(connection: Connection): Promise<void> };
  const connection = await client.acquireConnection();
  // it locks nothing by itself; what only reads goes by the other connection as long as it stands
  connection.prepare('BEGIN DEFERRED').run([]);
  return async () => {
    connection.prepare('ROLLBACK').run([]);
    await client.releaseConnection(connection);
  };
}

/** Closes a database so that its file alone is whole: what stands in the log beside it is brought into it first. */
export async function closeDatabase(db: Database): Promise<void> {
  if (dialectOf(db).name === 'sqlite') await db.raw('PRAGMA wal_checkpoint(TRUNCATE)').catch(() => undefined);
  await closing.get(db)?.();
  await db.destroy();
}

/** Whether a table that was read is not there: somebody has deleted it since it was known. */
export const isGone = (e: unknown): boolean =>
  (e as { code?: unknown } | null)?.code === '42P01' || (e instanceof Error && e.message.includes('no such table'));

/** Whether the database would not take a row because its number stands there already, or it names a row that is not there. */
export function isRefused(e: unknown): 'twice' | 'nowhere' | null {
  const code = String((e as { code?: unknown } | null)?.code ?? '');
  if (code === '23503' || code === 'SQLITE_CONSTRAINT_FOREIGNKEY') return 'nowhere';
  return code === '23505' || code.startsWith('SQLITE_CONSTRAINT') ? 'twice' : null;
}
/** Whether something could not be deleted because other rows name it. */
export function isStillReferenced(e: unknown): boolean {
  const code = String((e as { code?: unknown } | null)?.code ?? '');
  // of PostgreSQL: class 23, violations of integrity (https://www.postgresql.org/docs/current/errcodes-appendix.html)
  return code.startsWith('SQLITE_CONSTRAINT') || /^23\d\d\d$/.test(code);
}

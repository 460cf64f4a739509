import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable } from './names';

/** What reading needs of a database: raw SQL with bound values, rows back. A Knex instance is one too. */
export interface Reading {
  /** of the database: tells how it is spoken to */
  readonly client: unknown;
  raw(sql: string, bindings?: readonly (string | number | null)[]): PromiseLike<unknown>;
}

/** Reads what was built with Knex where it is to be read. */
export async function readBy<T>(
  reading: Reading,
  built: { toSQL(): { readonly sql: string; readonly bindings: readonly unknown[] } },
): Promise<T[]> {
  const { sql, bindings } = built.toSQL();
  return (await reading.raw(sql, bindings as readonly (string | number | null)[])) as T[];
}

/** A table of so many rows is gone through sooner than a thread is asked to. */
export const READ_HERE = 20_000;

/** A table of so many rows is made another sooner than a thread is asked to; so many are brought into a search index at once. */
export const RESHAPED_HERE = 3_000;

/** The highest number that a row of a table has: there are no more of them than that. Found by the index of the numbers. */
export async function highestNumber(db: Database, table: string): Promise<number> {
  const [row] = (await db(dataTable(table)).max({ n: 'id' })) as { n: number | string | null }[];
  return Number(row?.n ?? 0);
}

/** One statement that only reads. */
export const readRaw = async (db: Database, sql: string, bindings: readonly (string | number | null)[]): Promise<unknown> =>
  (await db.raw(sql, [...bindings])) as unknown;

/**
 * Reads everything of a file as it was at one moment, whatever others write meanwhile. What is on a server is read as it is by then: there
 * nobody could change a table that is read in a transaction until that ends, and somebody may take what is read slowly.
 */
export const atOneMoment = <T>(db: Database, read: (db: Database) => Promise<T>): Promise<T> =>
  dialectOf(db).name === 'sqlite' ? db.transaction(read) : read(db);

/** A number that is another whenever another connection has changed the database. */
export async function dataVersion(db: Database): Promise<number> {
  const [row] = (await db.raw(dialectOf(db).version)) as { version: number | string }[];
  return Number(row?.version ?? 0);
}

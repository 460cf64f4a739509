import type { Database } from './connection';
import { dialectOf } from './dialect';

/** What reading needs of a database: raw SQL with bound values, rows back. A Knex instance is one too. */
export interface Reading {
  /** of the database: tells how it is spoken to */
  readonly client: unknown;
  raw(sql: string, bindings?: readonly (string | number | null)[]): PromiseLike<unknown>;
}

/** One statement that only reads. */
export const readRaw = async (db: Database, sql: string, bindings: readonly (string | number | null)[]): Promise<unknown> =>
  (await db.raw(sql, [...bindings])) as unknown;

/** A number that is another whenever another connection has changed the database. */
export async function dataVersion(db: Database): Promise<number> {
  const [row] = (await db.raw(dialectOf(db).version)) as { version: number | string }[];
  return Number(row?.version ?? 0);
}

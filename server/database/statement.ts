import type { Database } from './connection';
import type { SqliteClient } from './client';
import type { PostgresClient } from './postgres';

/** What a statement gave: rows where it gives some, else how many it changed and the number of the row it inserted last. */
export interface Done {
  readonly rows: readonly Record<string, unknown>[];
  readonly changes: number;
  readonly id: number;
}

/** Which rows a statement writes: one, by its number, or those it inserts. */
export type RowOf = number | 'inserted';

/**
 * Runs one statement as it is written, in the transaction one is in. For those that every save and every list runs: Knex's builder takes
 * ten times as long as they do. Values are bound to `?`; identifiers come from the model (names.ts). One that writes a few rows says
 * which, so that what is kept of the others stays.
 */
export const execute = (db: Database, sql: string, bindings: readonly unknown[], row?: RowOf): Promise<Done> =>
  (db.client as SqliteClient | PostgresClient).execute(
    sql,
    bindings,
    (db as { isCompleted?: () => boolean }).isCompleted?.() ?? false,
    row,
  );

/** The rows that a statement gives, as `execute` runs it. */
export const selected = async (db: Database, sql: string, bindings: readonly unknown[]): Promise<readonly Record<string, unknown>[]> =>
  (await execute(db, sql, bindings)).rows;

/** How many rows are deleted at once, so that nobody waits for it: each costs some 2 µs, and its place in each index. */
const DELETED = 1000;

/** Deletes some of the rows that name a number in a column; gives whether there were any. */
export async function deleteSome(db: Database, table: string, column: string, number: number): Promise<boolean> {
  const some = `SELECT id FROM ${table} WHERE ${column} = ? LIMIT ${DELETED}`;
  return (await execute(db, `DELETE FROM ${table} WHERE id IN (${some})`, [number])).changes > 0;
}

/** How many rows one statement inserts: one text for most of them, which stays prepared. */
const ROWS = 50;

/** Inserts rows, the values of each in the order of `columns`. `besides` stands behind the values: what to do about those that are there already. */
export async function insertMany(
  db: Database,
  table: string,
  columns: readonly string[],
  rows: readonly (readonly unknown[])[],
  besides = '',
): Promise<void> {
  const marks = `(${columns.map(() => '?').join(', ')})`;
  const head = `INSERT INTO ${table} (${columns.join(', ')}) VALUES `;
  for (let i = 0; i < rows.length; i += ROWS) {
    const some = rows.slice(i, i + ROWS);
    await execute(db, `${head}${some.map(() => marks).join(', ')} ${besides}`, some.flat());
  }
}

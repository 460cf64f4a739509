import { isFolded } from '../../core/choices/order.ts';
import { type Column, linkTarget } from '../../core/model/tables.ts';
import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable, foldColumn, sqlType } from './names';
import { indexesOf } from './schema';

/* The SQL columns that a column of the model stands in: its value, and what texts are compared by. */

/** The names of a value and of its folded text. */
export type SqlNamesOf = readonly [string, string];
/** What they are called as long as nothing else stands in their place. */
export const sqlNames = (column: Pick<Column, 'key'>): SqlNamesOf => [column.key, foldColumn(column.key)];

/**
 * Adds the SQL columns of a column. Plain ALTER TABLE: the query builder would copy the whole table to add a reference, and fail where rows
 * link to it.
 */
export async function addSqlColumns(
  db: Database,
  table: string,
  column: Column,
  [value, folded]: SqlNamesOf,
  how: 'linked' | 'unlinked' = 'linked',
): Promise<void> {
  const name = `"${dataTable(table)}"`;
  const target = how === 'linked' ? linkTarget(column) : null;
  const references = target ? ` REFERENCES "${dataTable(target)}" ("id") ON DELETE RESTRICT` : '';
  await db.raw(`ALTER TABLE ${name} ADD COLUMN "${value}" ${columnType(db, column)}${references}`);
  if (isFolded(column.type)) await db.raw(`ALTER TABLE ${name} ADD COLUMN "${folded}" ${dialectOf(db).text}`);
}

/** The type of a column as this kind of database calls it. */
function columnType(db: Database, column: Column): string {
  const type = sqlType(column);
  return type === 'numeric' ? dialectOf(db).number : type === 'text' ? dialectOf(db).text : dialectOf(db).integer;
}

/** Makes the index that children are found by through a link; nothing of other columns. Idempotent. */
export async function indexLink(db: Database, table: string, column: Column): Promise<void> {
  if (!linkTarget(column)) return;
  await db.raw(`CREATE INDEX IF NOT EXISTS "ix_${table}_${column.key}" ON "${dataTable(table)}" ("${column.key}")`);
}

/** Drops the indexes of a table that name one of these SQL columns. */
export async function dropIndexesOf(db: Database, table: string, names: readonly string[]): Promise<void> {
  for (const index of await indexesOf(db, dataTable(table)))
    if (index.columns.some((c) => names.includes(c))) await db.raw(`DROP INDEX "${index.name}"`);
}

/** Drops those of these SQL columns that there are, with the indexes that name them: SQLite refuses to drop a column that one names. */
export async function dropSqlColumns(db: Database, table: string, names: readonly string[]): Promise<void> {
  await dropIndexesOf(db, table, names);
  for (const name of await sqlColumnsOf(db, table)) if (names.includes(name)) await db.raw(`ALTER TABLE "${dataTable(table)}" DROP COLUMN "${name}"`); // prettier-ignore
}

/** The SQL columns of a table. */
export async function sqlColumnsOf(db: Database, table: string): Promise<string[]> {
  const sql =
    dialectOf(db).name === 'postgres'
      ? `SELECT column_name AS name FROM information_schema.columns WHERE table_schema = current_schema() AND table_name = ?::name ORDER BY ordinal_position`
      : `SELECT name FROM pragma_table_info(?)`;
  return ((await db.raw(sql, [dataTable(table)])) as { name: string }[]).map((c) => c.name);
}

/** Writes down that a column of the model is of another type. */
export const writeType = (db: Database, table: string, { key, type, target, decimals, length }: Column): Promise<number> =>
  db('model_columns').where({ table_key: table, key }).update({ type, target, decimals, length });

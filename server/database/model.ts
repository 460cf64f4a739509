import { isFolded } from '../../core/choices/order.ts';
import { type Column, type Table, WHOLE_LIMIT, columnSchema, targetOf } from '../../core/form/tables.ts';
import type { Database } from './connection';
import { systemColumns } from './migrations';
import { dataTable, foldColumn, sqlType } from './names';
import { dropSearchIndex } from './searchIndex';
import type { Knex } from 'knex';

/** A table of the model with its columns, without counts. */
export type ModelTable = Omit<Table, 'rows' | 'large'>;

export async function readModel(db: Database): Promise<ModelTable[]> {
  const tables = (await db('model_tables').orderBy('position')) as { key: string; label: string; shown: string | null }[];
  const columns = (await db('model_columns').orderBy('position')) as (Record<string, unknown> & { table_key: string })[];
  return tables.map(({ key, label, shown }) => ({
    key,
    label,
    shown,
    columns: columns.filter((c) => c.table_key === key).map((c) => columnSchema.parse(c)),
  }));
}

/** How many rows a table has: exact up to the limit for whole tables, exact beyond it too (SQLite counts an index). */
export async function countRows(db: Database, table: string): Promise<number> {
  const [row] = (await db(dataTable(table)).count({ n: '*' })) as { n: number }[];
  return Number(row?.n ?? 0);
}
export const isLarge = (rows: number): boolean => rows > WHOLE_LIMIT;

function addSqlColumn(t: Knex.TableBuilder, table: string, column: Column): void {
  const type = sqlType(column);
  const sql = type === 'numeric' ? t.specificType(column.key, 'numeric') : type === 'integer' ? t.integer(column.key) : t.text(column.key);
  const target = targetOf(column);
  if (target) sql.references('id').inTable(dataTable(target)).onDelete('RESTRICT');
  if (isFolded(column.type)) t.text(foldColumn(column.key));
  // a link is what children are found by; without an index every deletion and every narrowing would scan
  if (target) t.index([column.key], `ix_${table}_${column.key}`);
}

/** Makes a table of the model and its SQL table. Call inside a transaction. */
export async function createTable(db: Database, table: ModelTable): Promise<void> {
  const [last] = (await db('model_tables').max({ position: 'position' })) as { position: number | null }[];
  await db('model_tables').insert({ key: table.key, label: table.label, shown: table.shown, position: (last?.position ?? 0) + 1 });
  await db.schema.createTable(dataTable(table.key), (t) => {
    systemColumns(t);
    for (const column of table.columns) addSqlColumn(t, table.key, column);
  });
  await writeColumns(db, table.key, table.columns, 0);
}

/** Adds columns to an existing table. Call inside a transaction. */
export async function addColumns(db: Database, table: ModelTable, columns: readonly Column[]): Promise<void> {
  if (!columns.length) return;
  // plain ALTER TABLE: the query builder would copy the whole table to add a reference, and fail where rows link to it
  for (const column of columns) {
    const name = `"${dataTable(table.key)}"`;
    const target = targetOf(column);
    const references = target ? ` REFERENCES "${dataTable(target)}" ("id") ON DELETE RESTRICT` : '';
    await db.raw(`ALTER TABLE ${name} ADD COLUMN "${column.key}" ${sqlType(column)}${references}`);
    if (isFolded(column.type)) await db.raw(`ALTER TABLE ${name} ADD COLUMN "${foldColumn(column.key)}" text`);
    if (target) await db.raw(`CREATE INDEX "ix_${table.key}_${column.key}" ON ${name} ("${column.key}")`);
  }
  await writeColumns(db, table.key, columns, table.columns.length);
}

async function writeColumns(db: Database, table: string, columns: readonly Column[], from: number): Promise<void> {
  if (columns.length) await db('model_columns').insert(columns.map((c, i) => ({ table_key: table, ...c, position: from + i })));
}

export const setTable = (db: Database, key: string, change: { label?: string; shown?: string | null }): Promise<number> =>
  db('model_tables').where({ key }).update(change);

export const renameColumn = (db: Database, table: string, key: string, label: string): Promise<number> =>
  db('model_columns').where({ table_key: table, key }).update({ label });

/** Removes a table of the model and its rows. Call inside a transaction; fails when another table links to it. */
export async function dropTable(db: Database, key: string): Promise<void> {
  await dropSearchIndex(db, key);
  await db('model_columns').where({ table_key: key }).delete();
  await db('model_tables').where({ key }).delete();
  await db.schema.dropTable(dataTable(key));
}

/** Makes sure there is an index over these columns in this order (folded where text). Idempotent. */
export async function ensureIndex(db: Database, table: string, columns: readonly Column[]): Promise<void> {
  const names = columns.map((c) => (isFolded(c.type) ? foldColumn(c.key) : c.key));
  const index = `nx_${table}_${names.join('_')}`.slice(0, 120);
  await db.raw(`CREATE INDEX IF NOT EXISTS "${index}" ON "${dataTable(table)}" (${[...names, 'id'].map((n) => `"${n}"`).join(', ')})`);
}

import { isFolded } from '../../core/choices/order.ts';
import { type Column, type Subset, type Table, WHOLE_LIMIT, linkTarget } from '../../core/model/tables.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import type { Database } from './connection';
import { systemColumns } from './migrations';
import { SQL_NAMES, dataTable, foldColumn, sqlType } from './names';
import type { Reading } from './reading';
import type { SeenRows } from './seen';
import { dialectOf } from './dialect';
import { addSqlColumns, dropSqlColumns, indexLink, sqlNames, writeType } from './columns';
import { endRetyping } from './retyping';
import { tablesNamed } from './schema';
import { dropSearchIndex } from './searchIndex';
import type { Knex } from 'knex';

/** A table of the model with its columns, without counts. */
export type ModelTable = Omit<Table, 'rows' | 'large'> & {
  /** of those read for somebody: which of its rows they see; all, where it is not said */
  readonly seen?: SeenRows | undefined;
};

/** The columns of tables as they were read last, by what stands of them: most are as they were when a model is read again. */
const columnsRead = new Map<string, readonly Column[]>();
/** Those read first go. */
const MOST_READ = 2000;
function columnsIn(rows: readonly object[]): readonly Column[] {
  const text = JSON.stringify(rows);
  const known = columnsRead.get(text);
  if (known) return known;
  const columns = rows.map((c) => columnSchema.parse(c));
  if (columnsRead.size >= MOST_READ) columnsRead.delete(columnsRead.keys().next().value as string);
  columnsRead.set(text, columns);
  return columns;
}
function byTable<R extends { readonly table_key: string }>(rows: readonly R[]): ReadonlyMap<string, readonly R[]> {
  const found = new Map<string, R[]>();
  for (const row of rows) {
    const known = found.get(row.table_key);
    if (known) known.push(row);
    else found.set(row.table_key, [row]);
  }
  return found;
}

export async function readModel(db: Database): Promise<ModelTable[]> {
  const tables = (await db('model_tables').orderBy('position')) as { key: string; label: string; shown: string | null }[];
  const columns = (await db('model_columns').orderBy('position')) as (Record<string, unknown> & { table_key: string })[];
  const subsets = (await db('subsets').orderBy('position')) as (Subset & { table_key: string })[];
  const [columnsOf, subsetsOf] = [byTable(columns), byTable(subsets)];
  return tables.map(({ key, label, shown }) => ({
    key,
    label,
    shown,
    columns: columnsIn(columnsOf.get(key) ?? []),
    subsets: (subsetsOf.get(key) ?? []).map((s) => ({ key: s.key, label: s.label, condition: s.condition })),
  }));
}

/** How many rows a table has. Cost: linear in them; SQLite goes through an index. */
export async function countRows(reading: Reading, table: string): Promise<number> {
  const [row] = (await reading.raw(`SELECT count(*) AS n FROM ${SQL_NAMES.table(table)}`)) as { n: number | string }[];
  return Number(row?.n ?? 0);
}
export const isLarge = (rows: number): boolean => rows > WHOLE_LIMIT;

/** Several links are a list that the database cannot enforce. `sqlTable` is the SQL table that a linked table has. */
function addSqlColumn(t: Knex.TableBuilder, table: string, column: Column, indexed = true, sqlTable = dataTable): void {
  const type = sqlType(column);
  const sql = type === 'numeric' ? t.specificType(column.key, 'numeric') : type === 'integer' ? t.integer(column.key) : t.text(column.key);
  const target = linkTarget(column);
  if (target) sql.references('id').inTable(sqlTable(target)).onDelete('RESTRICT');
  if (isFolded(column.type)) t.text(foldColumn(column.key));
  // a link is what children are found by; without an index every deletion and every narrowing would scan
  if (target && indexed) t.index([column.key], `ix_${table}_${column.key}`);
}

/** Makes a table of the model and its SQL table. Call inside a transaction. */
export async function createTable(db: Database, table: ModelTable): Promise<void> {
  await registerTable(db, table);
  await db.schema.createTable(dataTable(table.key), (t) => {
    systemColumns(t);
    for (const column of table.columns) addSqlColumn(t, table.key, column);
  });
}

async function registerTable(db: Database, table: ModelTable): Promise<void> {
  const [last] = (await db('model_tables').max({ position: 'position' })) as { position: number | null }[];
  await db('model_tables').insert({ key: table.key, label: table.label, shown: table.shown, position: (last?.position ?? 0) + 1 });
  await writeColumns(db, table.key, table.columns, 0);
}

/**
 * Makes a table of the shape of a model table under a name of its own, without indexes: where an import is staged. `becomes` is the
 * table it will be, which its columns may link to: SQLite renames such references with the table.
 */
export async function createStaging(db: Database, name: string, columns: readonly Column[], becomes: string | null): Promise<void> {
  await db.schema.createTable(name, (t) => {
    systemColumns(t);
    for (const column of columns) addSqlColumn(t, name, column, false, (key) => (key === becomes ? name : dataTable(key)));
  });
}

/** Makes the SQL table of a model table that is known already, without what holds its links. Call inside a transaction. */
export async function createUnlinked(db: Database, key: string, columns: readonly Column[]): Promise<void> {
  await db.schema.createTable(dataTable(key), systemColumns);
  for (const column of columns) await addSqlColumns(db, key, column, sqlNames(column), 'unlinked');
}
/** Holds links to the rows they lead to, and makes the indexes they are found by. Call inside a transaction. */
export async function linkColumns(db: Database, table: string, columns: readonly Column[]): Promise<void> {
  for (const column of columns) {
    const target = linkTarget(column);
    if (!target) continue;
    await db.raw(
      `ALTER TABLE "${dataTable(table)}" ADD FOREIGN KEY ("${column.key}") REFERENCES "${dataTable(target)}" ("id") ON DELETE RESTRICT`,
    );
    await indexLink(db, table, column);
  }
}

/** Makes a staged table a table of the model, with its indexes. Call inside a transaction. */
export async function adoptStaging(db: Database, name: string, table: ModelTable): Promise<void> {
  await registerTable(db, table);
  await db.raw(`ALTER TABLE "${name}" RENAME TO "${dataTable(table.key)}"`);
  for (const column of table.columns) await indexLink(db, table.key, column);
}

/** Drops what imports that were cut short have left behind. */
export async function dropStagings(db: Database): Promise<void> {
  for (const name of await tablesNamed(db, 'importing_')) await db.schema.dropTable(name);
}

/** Adds columns to an existing table. Call inside a transaction. */
export async function addColumns(db: Database, table: ModelTable, columns: readonly Column[]): Promise<void> {
  if (!columns.length) return;
  for (const column of columns) {
    await addSqlColumns(db, table.key, column, sqlNames(column));
    await indexLink(db, table.key, column);
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
  await endRetyping(db, key);
  // dropping deletes row by row, which rows that link to others of their own table would forbid
  const own = (await db('model_columns').where({ table_key: key, target: key }).select('key')) as { key: string }[];
  if (own.length) await db(dataTable(key)).update(Object.fromEntries(own.map((c) => [c.key, null])));
  await db('model_columns').where({ table_key: key }).delete();
  await db('model_tables').where({ key }).delete();
  await db.schema.dropTable(dataTable(key));
}

/** Makes sure there is an index over these columns in this order (folded where text). Idempotent. */
export async function ensureIndex(db: Database, table: string, columns: readonly Column[]): Promise<void> {
  const names = columns.map((c) => (isFolded(c.type) ? foldColumn(c.key) : c.key));
  const index = `nx_${table}_${names.join('_')}`.slice(0, 120);
  await db.raw(
    `CREATE INDEX IF NOT EXISTS "${index}" ON "${dataTable(table)}" (${[...names.map((n) => `"${n}"${dialectOf(db).indexed}`), '"id"'].join(', ')})`,
  );
}

/** Makes sure that what an account saved last, of those with a value in a column where one is named, is found by an index. Idempotent. */
export async function ensureLastIndex(db: Database, table: string, column: string | null): Promise<void> {
  const [name, columns] =
    column === null ? [`ix_${table}__created_by`, ['_created_by']] : [`lx_${table}_${column}`, ['_created_by', column]];
  await db.raw(
    `CREATE INDEX IF NOT EXISTS "${name.slice(0, 120)}" ON "${dataTable(table)}" (${columns.map((c) => `"${c}"${dialectOf(db).indexed}`).join(', ')})`,
  );
}

/** Takes a column out of a table with its values and indexes. Call inside a transaction. */
export async function dropColumn(db: Database, table: ModelTable, column: Column): Promise<void> {
  // it names all columns of texts
  if (isFolded(column.type)) await dropSearchIndex(db, table.key);
  await endRetyping(db, table.key);
  await dropSqlColumns(db, table.key, sqlNames(column));
  await db('model_columns').where({ table_key: table.key, key: column.key }).delete();
}

/** Makes a column anew with another type, empty, in its old place. Its values are written afterwards. Call inside a transaction. */
export async function replaceColumn(db: Database, table: ModelTable, from: Column, to: Column): Promise<void> {
  if (isFolded(from.type) || isFolded(to.type)) await dropSearchIndex(db, table.key);
  await endRetyping(db, table.key);
  await dropSqlColumns(db, table.key, sqlNames(from));
  await addSqlColumns(db, table.key, to, sqlNames(to));
  await indexLink(db, table.key, to);
  await writeType(db, table.key, to);
}

export async function writeSubsets(db: Database, table: string, subsets: readonly Subset[]): Promise<void> {
  await db('subsets').where({ table_key: table }).delete();
  if (subsets.length) await db('subsets').insert(subsets.map((s, position) => ({ table_key: table, ...s, position })));
}

/** Puts the columns of a table in this order; those not named stand last. */
export async function orderColumns(db: Database, table: string, keys: readonly string[]): Promise<void> {
  for (const [position, key] of keys.entries()) await db('model_columns').where({ table_key: table, key }).update({ position });
}

import { isFolded } from '../../core/choices/order.ts';
import { type Column, isSeveral, targetOf } from '../../core/model/tables.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Database } from './connection';
import { execute, insertMany, selected } from './statement';
import { type Reading, readBy } from './reading';
import { searchCondition } from './searchIndex';
import type { ModelTable } from './model';
import { onlySeen } from './seen';
import { dialectOf } from './dialect';
import { SQL_NAMES, type Stored, dataTable, foldColumn, inOrder, rowFrom, sqlType, storedColumns, storedParts, toStored } from './names';

export interface RowStamp {
  readonly at: string;
  readonly account: number | null;
  readonly form: string | null;
  readonly formVersion: number | null;
}

/** A row with what the system keeps of it. */
export interface RecordRow {
  readonly row: Row;
  readonly revision: number;
  readonly changedAt: string | null;
  readonly formVersion: number | null;
}

export const recordFrom = (raw: Record<string, unknown>, columns: readonly Column[]): RecordRow => ({
  row: rowFrom(raw, columns),
  revision: raw._revision as number,
  changedAt: raw._changed_at as string | null,
  formVersion: raw._form_version as number | null,
});

export async function allRows(db: Database, table: ModelTable): Promise<Row[]> {
  const rows = onlySeen(db(dataTable(table.key)), table).select(['id', ...table.columns.map((c) => c.key)]);
  const raw = (await rows.orderBy('id')) as Record<string, unknown>[];
  return raw.map((r) => rowFrom(r, table.columns));
}

export async function rowById(db: Database, table: ModelTable, id: number): Promise<RecordRow | null> {
  const name = SQL_NAMES.table(table.key);
  const [raw] = await selected(db, `SELECT * FROM ${name} WHERE "id" = ?${andSeen(table, name)}`, [id, ...seenBindings(table)]);
  return raw ? recordFrom(raw, table.columns) : null;
}

const andSeen = (table: ModelTable, alias: string): string => (table.seen ? ` AND ${table.seen.sql(alias)}` : '');
const seenBindings = (table: ModelTable): readonly Stored[] => table.seen?.bindings ?? [];

const stored = (columns: readonly Column[], values: Readonly<Record<string, Datum>>): Record<string, Stored> => {
  const all: Record<string, Stored> = {};
  for (const c of columns) if (c.key in values) Object.assign(all, storedColumns(c, values[c.key] ?? null));
  return all;
};

/** The text that inserts so many rows with values in some columns; what stands behind the columns is `stamped`. */
function insertText(table: ModelTable, columns: readonly string[], count: number): string {
  const names = [...columns, ...STAMPED].map((n) => `"${n}"`);
  const marks = `(${names.map(() => '?').join(', ')})`;
  return `INSERT INTO ${SQL_NAMES.table(table.key)} (${names.join(', ')}) VALUES ${Array.from({ length: count }, () => marks).join(', ')}`;
}
const stamped = ({ at, account, form, formVersion }: RowStamp): readonly Stored[] => [at, account, at, account, form, formVersion];

/** Inserts a row and gives its id. Columns not named are empty. */
export async function insertRow(
  db: Database,
  table: ModelTable,
  values: Readonly<Record<string, Datum>>,
  stamp: RowStamp,
): Promise<number> {
  const row = stored(table.columns, values);
  const { id } = await execute(db, insertText(table, Object.keys(row), 1), [...Object.values(row), ...stamped(stamp)], 'inserted');
  return id;
}
/**
 * The same with some rows at once, up to some dozens; gives their ids in the order of the rows. Columns that no row names are empty. Rows
 * are numbered in the order in which they stand in the statement; in which order it gives the numbers is open
 * (https://www.sqlite.org/lang_returning.html).
 */
export async function insertRows(
  db: Database,
  table: ModelTable,
  rows: readonly Readonly<Record<string, Datum>>[],
  stamp: RowStamp,
): Promise<number[]> {
  const all = rows.map((values) => stored(table.columns, values));
  const columns = [...new Set(all.flatMap((r) => Object.keys(r)))];
  const given = all.flatMap((r) => [...columns.map((c) => r[c] ?? null), ...stamped(stamp)]);
  const numbered = await execute(db, `${insertText(table, columns, rows.length)} RETURNING "id"`, given, 'inserted');
  return numbered.rows.map((r) => Number(r.id)).sort((a, b) => a - b);
}
const STAMPED = ['_created_at', '_created_by', '_changed_at', '_changed_by', '_form', '_form_version'];

/** Puts a row back under the number it had. Throws when that number is taken. */
export async function restoreRow(db: Database, table: ModelTable, row: Row, stamp: RowStamp): Promise<void> {
  await db(dataTable(table.key)).insert({
    id: row.id,
    ...stored(table.columns, row),
    _created_at: stamp.at,
    _created_by: stamp.account,
    _changed_at: stamp.at,
    _changed_by: stamp.account,
  });
}

/** Puts many rows in under the numbers they had. Throws when one is taken. */
export async function restoreRows(db: Database, table: ModelTable, rows: readonly Row[], stamp: RowStamp): Promise<void> {
  const all = rows.map((row): Record<string, Stored> => ({ id: row.id, ...stored(table.columns, row) }));
  const columns = [...new Set(all.flatMap((r) => Object.keys(r)))];
  const names = [...columns, ...STAMPED].map((n) => `"${n}"`);
  const given = all.map((r) => [...columns.map((c) => r[c] ?? null), ...stamped(stamp)]);
  await insertMany(db, SQL_NAMES.table(table.key), names, given);
}

/** Changes a row if it still has this revision; false when it has another (or is gone). */
export async function updateRow(
  db: Database,
  table: ModelTable,
  id: number,
  revision: number,
  values: Readonly<Record<string, Datum>>,
  stamp: RowStamp,
): Promise<boolean> {
  const form = stamp.form === null ? {} : { _form: stamp.form, _form_version: stamp.formVersion };
  const set = { ...stored(table.columns, values), ...form, _revision: revision + 1, _changed_at: stamp.at, _changed_by: stamp.account };
  const sets = Object.keys(set).map((n) => `"${n}" = ?`);
  const sql = `UPDATE ${SQL_NAMES.table(table.key)} SET ${sets.join(', ')} WHERE "id" = ? AND "_revision" = ?`;
  const { changes } = await execute(db, sql, [...Object.values(set), id, revision], id);
  return changes === 1;
}

/** The rows of a child table that link to a row, in the order of a column (or of their ids). */
export async function childRows(
  db: Database,
  table: ModelTable,
  link: string,
  id: number,
  order: string | null,
): Promise<(RecordRow & { row: Row })[]> {
  const name = (key: string): string => SQL_NAMES.column('t', key);
  const by = [...(order ? [name(order) + inOrder(false)] : []), name('id')].join(', ');
  const raw = await selected(db, `SELECT * FROM ${SQL_NAMES.table(table.key)} t WHERE ${name(link)} = ? ORDER BY ${by}`, [id]);
  return raw.map((r) => recordFrom(r, table.columns));
}

/** The numbers of the rows that link to one by a column. */
export async function childIds(db: Database, table: string, link: string, id: number): Promise<number[]> {
  const sql = `SELECT t."id" AS id FROM ${SQL_NAMES.table(table)} t WHERE ${SQL_NAMES.column('t', link)} = ? ORDER BY t."id"`;
  return (await selected(db, sql, [id])).map((r) => r.id as number);
}

/** A record with the account that entered it. */
export interface EntryRow extends RecordRow {
  readonly createdBy: number | null;
}
/** Columns of which values are read, by key; undefined: of all. Each that is not read takes its share less: of a wide table most of it. */
export type ColumnsRead = ReadonlySet<string> | undefined;

/** Records of a table in the order of their ids: a page of those after one, or those named. */
export async function entryRows(
  db: Database,
  table: ModelTable,
  which: { readonly after: number; readonly until?: number | null; readonly limit: number } | { readonly ids: readonly number[] },
  read?: ColumnsRead,
): Promise<EntryRow[]> {
  const columns = read ? table.columns.filter((c) => read.has(c.key)) : table.columns;
  const rows = db(dataTable(table.key)).orderBy('id');
  if (read) void rows.select(['id', '_revision', '_changed_at', '_form_version', '_created_by', ...columns.map((c) => c.key)]);
  if ('ids' in which) void rows.whereIn('id', [...which.ids]);
  else {
    void rows.where('id', '>', which.after).limit(which.limit);
    if (typeof which.until === 'number') void rows.where('id', '<=', which.until);
  }
  return ((await rows) as Record<string, unknown>[]).map((raw) => ({
    ...recordFrom(raw, columns),
    createdBy: raw._created_by as number | null,
  }));
}

/** The number of the row that is so many rows after another; null when there are fewer. */
export async function rowAfter(db: Database, table: string, after: number, count: number): Promise<number | null> {
  const found = await selected(db, `SELECT id FROM ${SQL_NAMES.table(table)} WHERE id > ? ORDER BY id LIMIT 1 OFFSET ?`, [
    after,
    count - 1,
  ]);
  return (found[0]?.id as number | undefined) ?? null;
}

/** The rows of a child table that link to any of these rows, each with its parent, in the order of a column. */
export async function linesOfRows(
  db: Database,
  table: ModelTable,
  link: string,
  parents: readonly number[],
  order: string | null,
): Promise<(RecordRow & { readonly parent: number })[]> {
  const raw = (await db(dataTable(table.key))
    .whereIn(link, [...parents])
    .orderByRaw(order ? `??${inOrder(false)}, id` : 'id', order ? [order] : [])) as Record<string, unknown>[];
  return raw.map((r) => ({ ...recordFrom(r, table.columns), parent: r[link] as number }));
}

/** The revisions rows have now; those that are gone are not in it. */
export async function revisionsOf(db: Database, table: string, ids: readonly number[]): Promise<Map<number, number>> {
  const rows = (await db(dataTable(table))
    .whereIn('id', [...ids])
    .select('id', '_revision')) as { id: number; _revision: number }[];
  return new Map(rows.map((r) => [r.id, r._revision]));
}

/** How many rows one statement writes: their values travel as one JSON text. */
const PER_STATEMENT = 500;

/** A column as it is written: what it holds decides how its values are read from the JSON text. */
export interface StoredName {
  readonly key: string;
  readonly sql: 'number' | 'text';
}
/** A row by its id, with its values as they are stored. */
export type StoredRow = readonly [id: number, ...Stored[]];
/** What is stored for a column, in the order of its values. */
const storedNames = (column: Column): StoredName[] =>
  Object.keys(storedColumns(column, null)).map((key) => ({
    key,
    sql: key === column.key && sqlType(column) !== 'text' ? 'number' : 'text',
  }));

/**
 * Writes stored values of the same columns into rows, by id; what `more` says is set besides, in SQL. SQLite, which is here, takes them row by
 * row; a server takes hundreds in one statement, since each has to go there and back.
 */
async function writeStored(
  db: Database,
  table: string,
  names: readonly StoredName[],
  rows: readonly StoredRow[],
  more: readonly string[] = [],
  bindings: readonly Stored[] = [],
): Promise<void> {
  const name = SQL_NAMES.table(table);
  const dialect = dialectOf(db);
  if (dialect.name === 'sqlite') {
    const sql = `UPDATE ${name} SET ${[...names.map((n) => `"${n.key}" = ?`), ...more].join(', ')} WHERE id = ?`;
    for (const [id, ...values] of rows) await execute(db, sql, [...values, ...bindings, id], id);
    return;
  }
  const { from, at } = dialect.lists('?', 'j');
  const sets = [...names.map((n, i) => `"${n.key}" = ${at(i + 1, n.sql)}`), ...more].join(', ');
  for (let i = 0; i < rows.length; i += PER_STATEMENT)
    await db.raw(`UPDATE ${name} SET ${sets} FROM ${from} WHERE ${name}.id = ${at(0, 'number')}`, [
      ...bindings,
      JSON.stringify(rows.slice(i, i + PER_STATEMENT)),
    ]);
}

/** What values of some columns of a row are stored in. */
export const storedNamesOf = (columns: readonly Column[]): StoredName[] => columns.flatMap(storedNames);
/** A row by its id, with values of some columns as they are stored, in the order of `storedNamesOf`. */
export function storedRow(id: number, columns: readonly Column[], values: Readonly<Record<string, Datum>>): StoredRow {
  const row: [number, ...Stored[]] = [id];
  for (const c of columns) row.push(...storedParts(c, values[c.key] ?? null));
  return row;
}
/** Changes the same columns of some rows that are known to have the revision they were read with. */
export const updateStored = (
  db: Database,
  table: string,
  names: readonly StoredName[],
  rows: readonly StoredRow[],
  { at, account }: RowStamp,
): Promise<void> => writeStored(db, table, names, rows, ['_revision = _revision + 1', '_changed_at = ?', '_changed_by = ?'], [at, account]);

/** Changes many rows that are known to have the revision they were read with: those that change the same columns together. */
export async function updateRows(
  db: Database,
  table: ModelTable,
  changes: readonly { readonly id: number; readonly values: Readonly<Record<string, Datum>> }[],
  stamp: RowStamp,
): Promise<void> {
  const groups = new Map<string, { columns: readonly Column[]; rows: StoredRow[] }>();
  for (const { id, values } of changes) {
    const keys = Object.keys(values).join(' ');
    let group = groups.get(keys);
    if (!group) groups.set(keys, (group = { columns: table.columns.filter((c) => c.key in values), rows: [] }));
    group.rows.push(storedRow(id, group.columns, values));
  }
  for (const { columns, rows } of groups.values()) await updateStored(db, table.key, storedNamesOf(columns), rows, stamp);
}

/** Writes values of one column into rows; with 'revise' as a change of the rows, without as one of the column itself. */
export async function setColumn(
  db: Database,
  table: string,
  column: Column,
  changes: readonly { readonly id: number; readonly value: Datum }[],
  how: 'revise' | 'silently',
): Promise<void> {
  const names = storedNames(column);
  const rows = changes.map(({ id, value }): StoredRow => [id, ...storedParts(column, value)]);
  await writeStored(db, table, names, rows, how === 'revise' ? ['_revision = _revision + 1'] : []);
}

/** Writes values of a column into others, `names`, as they would stand in its own: the value, and its folded text where it has one. */
export async function writeStoredAs(
  db: Database,
  table: string,
  column: Column,
  names: readonly [string, string],
  changes: readonly { readonly id: number; readonly value: Datum }[],
): Promise<void> {
  const stored = storedNames(column).map(({ sql }, i): StoredName => ({ key: names[i] as string, sql }));
  await writeStored(db, table, stored, changes.map(({ id, value }): StoredRow => [id, ...storedParts(column, value)])); // prettier-ignore
}

/** The rows whose column holds a value, or has it among several, with what it holds. */
export async function rowsHolding(db: Database, table: string, column: Column, value: Stored): Promise<{ id: number; value: Datum }[]> {
  const rows = db(dataTable(table)).select('id', column.key).orderBy('id');
  if (isSeveral(column.type)) void rows.whereRaw(dialectOf(db).holds('??', '?', typeof value === 'string'), [column.key, value]);
  else void rows.where(column.key, value);
  const raw = (await rows) as Record<string, unknown>[];
  return raw.map((r) => ({ id: r.id as number, value: rowFrom(r, [column])[column.key] ?? null }));
}
/** The rows whose column holds one of these texts, with the text. */
export async function rowsSpelled(
  db: Database,
  table: string,
  column: string,
  texts: readonly string[],
): Promise<{ id: number; text: string }[]> {
  return (await db(dataTable(table)).whereIn(column, [...texts]).select({ id: 'id', text: column })) as { id: number; text: string }[]; // prettier-ignore
}

/** The row before or after one in the order of the ids; null at the end. */
export async function neighbourOf(
  db: Database,
  table: Pick<ModelTable, 'key' | 'seen'>,
  id: number,
  side: 'before' | 'after',
): Promise<number | null> {
  const found = (await onlySeen(db(dataTable(table.key)), table)
    .where('id', side === 'before' ? '<' : '>', id)
    .orderBy('id', side === 'before' ? 'desc' : 'asc')
    .first('id')) as { id: number } | undefined;
  return found?.id ?? null;
}
/** How many rows have nothing in a column. */
export async function countWithout(reading: Reading, table: string, column: string): Promise<number> {
  const name = SQL_NAMES.table(table);
  const sql = `SELECT count(*) AS n FROM ${name} WHERE ${SQL_NAMES.column(name, column)} IS NULL`;
  const [counted] = (await reading.raw(sql)) as { n: number | string }[];
  return Number(counted?.n ?? 0);
}

/** The row that an account saved last, of those with a value in a column where one is named. */
export async function lastOf(
  db: Database,
  table: ModelTable,
  account: number,
  where: { column: Column; value: Datum } | null,
): Promise<Row | null> {
  const name = SQL_NAMES.table(table.key);
  // of what holds nothing: no equality finds it
  const also = !where ? '' : ` AND ${SQL_NAMES.column(name, where.column.key)} ${where.value === null ? 'IS NULL' : '= ?'}`;
  const [raw] = await selected(
    db,
    `SELECT * FROM ${name} WHERE "_created_by" = ?${also}${andSeen(table, name)} ORDER BY "id" DESC LIMIT 1`,
    [account, ...(where && where.value !== null ? [toStored(where.value)] : []), ...seenBindings(table)],
  );
  return raw ? rowFrom(raw, table.columns) : null;
}

/** Rows looked at for what is usual: the newest, so that a long history costs no more than a short one. */
const USUAL_ROWS = 5000;
/** What a column holds in the newest rows: what an account put there last, or, with null, what stands there most often. */
export async function usualIn(
  db: Database,
  table: Pick<ModelTable, 'key' | 'seen'>,
  column: string,
  account: number | null,
  most: number,
  reading: Reading = db,
): Promise<number[]> {
  const newest = onlySeen(db(dataTable(table.key)), table)
    .whereNotNull(column)
    .orderBy('id', 'desc')
    .limit(USUAL_ROWS)
    .select({ value: column, id: 'id' });
  if (account !== null) void newest.where('_created_by', account);
  const counted = db
    .from(newest.as('newest'))
    .select('value')
    .groupBy('value')
    .orderByRaw(account !== null ? 'max(id) DESC' : 'count(*) DESC, max(id) DESC')
    .limit(most);
  // where few rows hold anything, all are gone through
  return (await readBy<{ value: number }>(reading, counted)).map((r) => r.value);
}

/** Deletes a row; gives how many there were of it: one, or none. */
export const deleteRow = async (db: Database, table: string, id: number): Promise<number> =>
  (await execute(db, `DELETE FROM ${SQL_NAMES.table(table)} WHERE "id" = ?`, [id], id)).changes;

/**
 * Rows of other tables that link to a row, by table and column; at most `most` ids of each, with the whole count. `readingOf`: where a table is
 * gone through, as it is for links that hold several.
 */
export interface LinkingRows {
  readonly table: string;
  readonly column: string;
  readonly count: number;
  readonly ids: readonly number[];
}
export async function linkingRows(
  db: Database,
  model: readonly ModelTable[],
  table: string,
  id: number,
  most = 20,
  readingOf: (table: ModelTable) => Promise<Reading> = () => Promise.resolve(db),
): Promise<LinkingRows[]> {
  const found: LinkingRows[] = [];
  for (const other of model) {
    for (const column of other.columns) {
      if (targetOf(column) !== table) continue;
      const where = isSeveral(column.type)
        ? db(dataTable(other.key)).whereRaw(dialectOf(db).holds('??', '?', false), [column.key, id])
        : db(dataTable(other.key)).where(column.key, id);
      void onlySeen(where, other);
      const reading = isSeveral(column.type) ? await readingOf(other) : db;
      const [counted] = await readBy<{ n: number | string }>(reading, where.clone().count({ n: '*' }));
      const count = Number(counted?.n ?? 0);
      if (!count) continue;
      const ids = await readBy<{ id: number }>(reading, where.clone().select('id').orderBy('id').limit(most));
      found.push({ table: other.key, column: column.key, count, ids: ids.map((r) => r.id) });
    }
  }
  return found;
}

/** How many rows of a table somebody sees. */
export async function countSeen(db: Database, table: ModelTable, reading: Reading): Promise<number> {
  const [counted] = await readBy<{ n: number | string }>(reading, onlySeen(db(dataTable(table.key)), table).count({ n: '*' }));
  return Number(counted?.n ?? 0);
}

/** How many rows hold each of some values in a column, and when the one changed longest ago was changed. */
export async function countsBy(
  db: Database,
  table: ModelTable,
  column: Column,
  values: readonly string[],
  reading: Reading,
): Promise<ReadonlyMap<string, { readonly records: number; readonly since: string | null }>> {
  const name = isFolded(column.type) ? foldColumn(column.key) : column.key;
  const of = new Map(values.map((v) => [isFolded(column.type) ? foldText(v) : v, v]));
  const counted = onlySeen(db(dataTable(table.key)), table)
    .select({ value: name })
    .count({ n: '*' })
    .min({ since: '_changed_at' })
    .whereIn(name, [...of.keys()])
    .groupBy(name);
  const rows = await readBy<{ value: string; n: number | string; since: string | null }>(reading, counted);
  return new Map(rows.map((r) => [of.get(r.value) ?? r.value, { records: Number(r.n), since: r.since }]));
}

export interface GridQuery {
  readonly search: string;
  readonly sort: Column | null;
  readonly descending: boolean;
  readonly offset: number;
  readonly limit: number;
}

/**
 * One window of a table for the grid, sorted and searched by SQL, with the number of rows that fit. `isIndexed`: the table has a search
 * index, which finds the rows that may hold the text. It is read where `db` reads, which may be a thread of its own.
 */
export async function gridRows(
  db: Reading,
  table: ModelTable,
  query: GridQuery,
  isIndexed = false,
): Promise<{ rows: RecordRow[]; total: number }> {
  const sought = foldText(query.search.trim());
  const parts: string[] = [];
  const bindings: Stored[] = [];
  if (table.seen) {
    parts.push(table.seen.sql('t'));
    bindings.push(...table.seen.bindings);
  }
  if (sought !== '') {
    const texts = table.columns.filter((c) => isFolded(c.type)).map((c) => c.key);
    const preselected = isIndexed && texts.length ? searchCondition(dialectOf(db), table.key, texts, sought) : null;
    if (preselected) {
      parts.push(preselected.sql);
      bindings.push(...preselected.bindings);
    }
    parts.push(texts.length ? `(${texts.map((key) => `instr(${SQL_NAMES.foldColumn('t', key)}, ?) > 0`).join(' OR ')})` : '1 = 0');
    bindings.push(...texts.map(() => sought));
  }
  const from = ` FROM ${SQL_NAMES.table(table.key)} t${parts.length ? ` WHERE ${parts.join(' AND ')}` : ''}`;
  const way = inOrder(query.descending);
  const sort = query.sort && (isFolded(query.sort.type) ? SQL_NAMES.foldColumn('t', query.sort.key) : SQL_NAMES.column('t', query.sort.key)); // prettier-ignore
  const order = [...(sort ? [sort + way] : []), SQL_NAMES.column('t', 'id') + way].join(', ');
  const raw = (await db.raw(`SELECT t.*${from} ORDER BY ${order} LIMIT ? OFFSET ?`, [...bindings, query.limit, query.offset])) as Record<string, unknown>[]; // prettier-ignore
  const rows = raw.map((r) => recordFrom(r, table.columns));
  // where the last row is in the window, all are counted
  if (rows.length < query.limit && (rows.length || !query.offset)) return { rows, total: query.offset + rows.length };
  const [counted] = (await db.raw(`SELECT count(*) AS n${from}`, bindings)) as { n: number }[];
  return { rows, total: Number(counted?.n ?? 0) };
}

/** Shown texts of rows by id, for tables whose rows a screen names. */
export async function rowsByIds(db: Database, table: ModelTable, ids: readonly number[]): Promise<Row[]> {
  const rows: Row[] = [];
  for (let i = 0; i < ids.length; i += 500) {
    const raw = (await onlySeen(db(dataTable(table.key)), table).whereIn('id', ids.slice(i, i + 500))) as Record<string, unknown>[];
    rows.push(...raw.map((r) => rowFrom(r, table.columns)));
  }
  return rows;
}

/** The newest records of a table, oldest of them first, and whether there are more. */
export async function recordsOf(
  db: Database,
  table: ModelTable,
  most: number,
): Promise<{
  records: (RecordRow & { readonly createdAt: string | null; readonly createdBy: number | null; readonly byForm: boolean })[];
  more: boolean;
}> {
  const raw = (await onlySeen(db(dataTable(table.key)), table)
    .orderBy('id', 'desc')
    .limit(most + 1)) as Record<string, unknown>[];
  return { records: raw.slice(0, most).reverse().map((r) => ({ ...recordFrom(r, table.columns), createdAt: r._created_at as string | null, createdBy: r._created_by as number | null, byForm: r._form !== null })), more: raw.length > most }; // prettier-ignore
}

/** The rows that hold a value in a column, by their numbers. */
export async function idsWith(db: Database, table: ModelTable, column: string, value: string): Promise<ReadonlySet<number>> {
  const rows = (await onlySeen(db(dataTable(table.key)), table)
    .where(column, value)
    .select('id')) as { id: number }[];
  return new Set(rows.map((r) => r.id));
}

/** The rows that link to one of so many others. */
export async function rowsLinking(db: Database, table: string, link: string, to: ReadonlySet<number>): Promise<ReadonlySet<number>> {
  const rows = (await db(dataTable(table)).whereNotNull(link).select('id', link)) as Record<string, number>[];
  return new Set(rows.flatMap((r) => (to.has(r[link] as number) ? [r.id as number] : [])));
}

/** Rows that come after an id, in the order of the ids: found by the key, whatever the size of the table. */
export async function rowsAfter(db: Database, table: ModelTable, after: number, limit: number): Promise<Row[]> {
  const raw = (await onlySeen(db(dataTable(table.key)), table)
    .select(['id', ...table.columns.map((c) => c.key)])
    .where('id', '>', after)
    .orderBy('id')
    .limit(limit)) as Record<string, unknown>[];
  return raw.map((r) => rowFrom(r, table.columns));
}

/** Goes through a table page by page, in the order of the ids. */
export async function eachPage(
  db: Database,
  table: ModelTable,
  visit: (rows: readonly Row[]) => Promise<void>,
  size = 2000,
): Promise<void> {
  for (let last = 0; ;) {
    const rows = await rowsAfter(db, table, last, size);
    if (!rows.length) return;
    await visit(rows);
    last = rows.at(-1)?.id as number;
  }
}

/** The dates that stand in a column, each once. */
export async function datesIn(db: Database, table: string, column: string, most: number): Promise<string[]> {
  const rows = (await db(dataTable(table)).whereNotNull(column).distinct({ day: column }).orderBy('day').limit(most)) as { day: string }[];
  return rows.map((r) => r.day.slice(0, 10));
}

import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { isFolded } from '../../core/choices/order.ts';
import { fitProblem, fitValue } from '../../core/form/fit.ts';
import { type Column, type ColumnType, columnOf, targetOf } from '../../core/model/tables.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { addHistory } from '../database/history';
import { type ModelTable, dropTable, isLarge, setTable } from '../database/model';
import {
  type RecordRow,
  type RowStamp,
  deleteRow,
  type GridQuery,
  gridRows,
  insertRow,
  type LinkingRows,
  linkingRows,
  rowById,
  rowsByIds,
  updateRow,
} from '../database/rows';
import { READ_HERE, type Reading } from '../database/reading';
import { searchIndexOf } from '../database/searchIndex';
import { type Account, accountOfPerson } from '../database/accounts';
import { breakages, refuseBreakages, without } from './breakage';
import { Refused, notFound } from './errors';
import { definitionsInUse } from './forms';
import { type Asker, NOBODY, seesAll, tableFor } from './owners';
import type { Workspace } from './workspace';

export type TableSummary = Answer<typeof contract.tables.list>[number];

export async function tableSummaries(ws: Workspace): Promise<TableSummary[]> {
  const tables = [...(await ws.tables()).values()];
  const children = new Map<string, { table: string; column: string }[]>(tables.map((t) => [t.key, []]));
  for (const { key, columns } of tables) for (const c of columns) children.get(targetOf(c) ?? '')?.push({ table: key, column: c.key });
  return tables.map((t) => ({ ...t, children: children.get(t.key) ?? [] }));
}

/** A window of a table; where it has to be gone through or sorted and is long, that is done where nobody waits for it. */
async function gridRead(ws: Workspace, table: ModelTable, query: GridQuery): ReturnType<typeof gridRows> {
  if (query.search.trim() === '' && query.sort === null) return gridRows(ws.db, table, query);
  const texts = table.columns.filter((c) => isFolded(c.type)).map((c) => c.key);
  return gridRows(await readingOf(ws, table), table, query, await isSearchIndexed(ws, table.key, texts));
}
/** Where all of a table is gone through: in a thread, where it is long. */
export const readingOf = async (ws: Workspace, table: ModelTable): Promise<Reading> => (await longReadingOf(ws, table)) ?? ws.db;
/** The same, for those who read here otherwise. */
export const longReadingOf = async (ws: Workspace, table: ModelTable): Promise<Reading | null> =>
  (await ws.rowCount(table.key)) > READ_HERE ? ws.aside : null;
/** Whether a table has an index over all that stands in these columns. */
export async function isSearchIndexed(ws: Workspace, table: string, columns: readonly string[]): Promise<boolean> {
  const held = await ws.kept.get(`search index of ${table}`, ['sqlite_master'], () => searchIndexOf(ws.db, table));
  return columns.length > 0 && columns.every((c) => held.has(c));
}

/** A window of a table with the texts of the rows its links show. */
export async function gridWindow(
  ws: Workspace,
  key: string,
  query: { search: string; sort: string | null; descending: boolean; offset: number; limit: number },
): Promise<{ rows: RecordRow[]; total: number; linked: Record<string, Record<number, string>> }> {
  const table = await ws.modelTable(key);
  const sort = query.sort ? (table.columns.find((c) => c.key === query.sort) ?? null) : null;
  const window = await gridRead(ws, table, { ...query, sort });
  return {
    ...window,
    linked: await linkedTexts(
      ws,
      table.columns,
      window.rows.map((r) => r.row),
    ),
  };
}

/** Rows in which a text stands, by what people know them by. */
export async function findRows(
  ws: Workspace,
  key: string,
  { search, limit }: { readonly search: string; readonly limit: number },
): Promise<Answer<typeof contract.tables.find>> {
  const table = await ws.modelTable(key);
  const shown = table.columns.find((c) => c.key === table.shown) ?? null;
  const { rows, total } = await gridRead(ws, table, { search, sort: shown, descending: false, offset: 0, limit });
  const found = rows.map((r) => r.row);
  const texts = await rowTexts(ws, table, found);
  return { rows: found.map((r) => ({ id: r.id, text: texts.get(r.id) ?? `row ${r.id}` })), total };
}

/** The shown texts of all rows that these rows link to, by table and id, as far as whoever asks sees them. */
export async function linkedTexts(
  ws: Workspace,
  columns: readonly Column[],
  rows: readonly Row[],
  who: Asker = NOBODY,
): Promise<Record<string, Record<number, string>>> {
  const wanted = new Map<string, Set<number>>();
  for (const column of columns) {
    const target = targetOf(column);
    if (!target) continue;
    const ids = wanted.get(target) ?? new Set<number>();
    for (const row of rows) for (const id of [row[column.key] ?? null].flat() as Datum[]) if (typeof id === 'number') ids.add(id);
    wanted.set(target, ids);
  }
  const texts: Record<string, Record<number, string>> = {};
  for (const [target, ids] of wanted) {
    const table = await tableFor(ws, who, target);
    texts[target] = Object.fromEntries(await rowTexts(ws, table, await rowsByIds(ws.db, table, [...ids]), { who }));
  }
  return texts;
}

/** A table whose rows are known by a link to one whose rows are known by a link … ends somewhere. */
export const MOST_LINKS = 4;

/** What rows are known by: their shown column; where that is a link, what the row it leads to is known by. `db` is the transaction one is in. */
export async function rowTexts(
  ws: Workspace,
  table: ModelTable,
  rows: readonly Row[],
  { db = ws.db, who = NOBODY, depth = 0 }: { readonly db?: Database; readonly who?: Asker; readonly depth?: number } = {},
): Promise<Map<number, string>> {
  const column = table.columns.find((c) => c.key === table.shown);
  const target = column && depth < MOST_LINKS ? targetOf(column) : null;
  if (!column || target === null) return new Map(rows.map((r) => [r.id, rowText(table, r)]));
  const ids = new Set(rows.flatMap((r) => [r[column.key] ?? null].flat() as Datum[]).filter((v) => typeof v === 'number'));
  const linked = seesAll(who) ? await ws.modelTable(target, db) : await tableFor(ws, who, target);
  const texts = await rowTexts(ws, linked, await rowsByIds(db, linked, [...ids]), { db, who, depth: depth + 1 });
  const textOf = (row: Row): string =>
    ([row[column.key] ?? null].flat() as Datum[]).flatMap((v) => (typeof v === 'number' ? (texts.get(v) ?? []) : [])).join(', ');
  return new Map(rows.map((r) => [r.id, textOf(r) || `row ${r.id}`]));
}

const rowText = (table: Pick<ModelTable, 'shown'>, row: Row): string => {
  const value = table.shown ? row[table.shown] : null;
  return value === null || value === undefined ? `row ${row.id}` : String(value);
};

export const stampOf = (ws: Workspace, account: Account, form: { key: string; version: number } | null = null): RowStamp => ({
  at: ws.clock.now(),
  account: account.id,
  form: form?.key ?? null,
  formVersion: form?.version ?? null,
});

/** Values for a table's columns, each checked: unknown columns, wrong types and links to rows that are not there are refused. */
async function checkedValues(ws: Workspace, table: ModelTable, values: Readonly<Record<string, Datum>>): Promise<Record<string, Datum>> {
  const issues: Record<string, string> = {};
  const fitted: Record<string, Datum> = {};
  for (const [key, value] of Object.entries(values)) {
    const column = columnOf({ ...table, rows: 0, large: false }, key);
    if (!column) {
      issues[key] = `${table.label} has no column “${key}”.`;
      continue;
    }
    const field = { type: column.type as ColumnType, label: column.label, decimals: column.decimals };
    const problem = fitProblem(field, column, value);
    if (problem) issues[key] = problem;
    else fitted[key] = fitValue(field, column, value);
    const target = targetOf(column);
    const ids = target && !problem ? ([value].flat() as Datum[]).filter((v) => typeof v === 'number') : [];
    if (target && ids.length) {
      const found = await rowsByIds(ws.db, await ws.modelTable(target), ids);
      if (found.length !== new Set(ids).size) issues[key] = `${column.label}: there is no such row.`;
    }
  }
  if (Object.keys(issues).length) throw new Refused(422, 'values', 'Some values cannot be saved.', { issues });
  return fitted;
}

export async function addRow(ws: Workspace, account: Account, key: string, values: Readonly<Record<string, Datum>>): Promise<RecordRow> {
  const table = await ws.modelTable(key);
  const fitted = await checkedValues(ws, table, values);
  const id = await ws.db.transaction(async (db) => {
    const stamp = stampOf(ws, account);
    const newId = await insertRow(db, table, fitted, stamp);
    await addHistory(db, { table: key, row: newId, kind: 'created', stamp, changes: asChanges({}, fitted) });
    return newId;
  });
  ws.rowsChanged(key, 1);
  return (await rowById(ws.db, table, id)) as RecordRow;
}

export async function changeRow(
  ws: Workspace,
  account: Account,
  key: string,
  id: number,
  revision: number,
  values: Readonly<Record<string, Datum>>,
): Promise<RecordRow> {
  const table = await ws.modelTable(key);
  const fitted = await checkedValues(ws, table, values);
  const before = await rowById(ws.db, table, id);
  if (!before) throw notFound('This row');
  const stamp = stampOf(ws, account);
  await ws.db.transaction(async (db) => {
    if (!(await updateRow(db, table, id, revision, fitted, stamp))) {
      throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this row meanwhile. It has been read again.', { current: before });
    }
    await addHistory(db, { table: key, row: id, kind: 'changed', stamp, changes: asChanges(before.row, fitted) });
  });
  return (await rowById(ws.db, table, id)) as RecordRow;
}

/** Refuses to delete a person who has an account. */
export async function refuseAccount(ws: Workspace, table: string, id: number): Promise<void> {
  if (table === 'people' && (await accountOfPerson(ws.db, id)) !== null)
    throw new Refused(409, 'inUse', 'This person has an account and cannot be deleted.', { links: [] });
}
/** Refuses to delete what rows link to, and names them. */
export async function refuseLinked(ws: Workspace, links: readonly LinkingRows[]): Promise<void> {
  if (!links.length) return;
  const named = await Promise.all(
    links.map(async (l) => {
      const other = await ws.modelTable(l.table);
      const texts = await rowTexts(ws, other, await rowsByIds(ws.db, other, l.ids));
      const column = other.columns.find((c) => c.key === l.column);
      return {
        ...l,
        label: other.label,
        columnLabel: column?.label ?? l.column,
        rows: [...texts].map(([rowId, text]) => ({ id: rowId, text })),
      };
    }),
  );
  const count = named.reduce((n, l) => n + l.count, 0);
  throw new Refused(409, 'inUse', `${count} ${count === 1 ? 'row links' : 'rows link'} to it, so it cannot be deleted.`, { links: named });
}

/** Deletes a row. Refused with the rows that link to it; gives the row as it was, so that it can be put back. */
export async function removeRow(ws: Workspace, account: Account, key: string, id: number): Promise<RecordRow> {
  const table = await ws.modelTable(key);
  const before = await rowById(ws.db, table, id);
  if (!before) throw notFound('This row');
  const model = await ws.modelTables();
  const links = await linkingRows(ws.db, model, key, id, undefined, (t) => readingOf(ws, t));
  await refuseAccount(ws, key, id);
  await refuseLinked(ws, links);
  await ws.db.transaction(async (db) => {
    await deleteRow(db, key, id);
    await addHistory(db, { table: key, row: id, kind: 'deleted', stamp: stampOf(ws, account), changes: asChanges(before.row, {}) });
  });
  ws.rowsChanged(key, -1);
  return before;
}

/** Column by column, before and after; what did not change is left out. */
export function asChanges(before: Readonly<Record<string, Datum>>, after: Readonly<Record<string, Datum>>): Record<string, [Datum, Datum]> {
  const changes: Record<string, [Datum, Datum]> = {};
  const keys = Object.keys(after).length ? Object.keys(after) : Object.keys(before);
  for (const key of keys) {
    const [x, y] = [before[key] ?? null, after[key] ?? null];
    if (key !== 'id' && JSON.stringify(x) !== JSON.stringify(y)) changes[key] = [x, y];
  }
  return changes;
}

export async function renameTable(ws: Workspace, key: string, change: { label?: string; shown?: string | null }): Promise<void> {
  const table = await ws.modelTable(key);
  if (change.shown && !table.columns.some((c) => c.key === change.shown)) {
    throw new Refused(422, 'values', `${table.label} has no column “${change.shown}”.`, {});
  }
  await setTable(ws.db, key, change);
  ws.modelChanged();
}

/** Deletes a table with its rows. Refused while another table links to it or a form uses it. */
export async function removeTable(ws: Workspace, key: string): Promise<void> {
  const table = await ws.modelTable(key);
  if (key === 'people') throw new Refused(409, 'inUse', 'People holds who can sign in and cannot be deleted.', {});
  const users = (await tableSummaries(ws)).find((t) => t.key === key)?.children ?? [];
  const linking = users.filter((u) => u.table !== key);
  if (linking.length) {
    throw new Refused(409, 'inUse', `${table.label} is linked to from ${linking.map((l) => l.table).join(', ')}.`, { links: linking });
  }
  const saving = (await definitionsInUse(ws)).find(
    ({ form }) => form.table === key || Object.values(form.lines).some((l) => l.table === key),
  );
  if (saving) throw new Refused(409, 'inUse', `${table.label} is used by the form ${saving.form.label}.`, {});
  refuseBreakages(`${table.label} is used`, await breakages(ws, (tables) => without(tables, key)));
  await ws.reshape([key], 'removeTable', [key], () => ws.db.transaction((db) => dropTable(db, key)));
  ws.modelChanged();
  ws.rowsChanged(key);
}

export const largeTable = async (ws: Workspace, key: string): Promise<boolean> => isLarge(await ws.rowCount(key));

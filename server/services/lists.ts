import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Field } from '../../core/form/definition.ts';
import { eachNamed } from '../../core/form/references.ts';
import { type OptionList, listProblems, readOutline } from '../../core/model/lists.ts';
import { keyFromLabel } from '../../core/model/tables.ts';
import { type HistoryEntry, addHistories } from '../database/history';
import { deleteList, hasList, insertList, listRows, updateList } from '../database/lists';
import { rowsHolding, setColumn } from '../database/rows';
import type { Account } from '../database/accounts';
import { type FormNamed, formsBy } from './breakage';
import { Refused, notFound } from './errors';
import { definitionsInUse } from './forms';
import { Pace } from './pace';
import { stampOf } from './tables';
import type { Workspace } from './workspace';

export type ListAnswer = Answer<typeof contract.lists.list>[number];

/** By list, the forms whose draft or published version offers it, in a field or in one of lines. */
const formsByList = (ws: Workspace): Promise<ReadonlyMap<string, readonly FormNamed[]>> =>
  formsBy(ws, (form) => {
    const lists = new Set<string>();
    eachNamed(form, { list: (key) => void lists.add(key) });
    return lists;
  });

export async function listAnswers(ws: Workspace): Promise<ListAnswer[]> {
  const rows = await listRows(ws.db);
  const users = await formsByList(ws);
  const found: ListAnswer[] = [];
  const pace = new Pace();
  for (const row of rows) {
    const { read, broken } = ws.listIn(row);
    const list = read[0] ?? { key: row.key, label: row.label, items: [] };
    found.push({ ...list, revision: row.revision, usedBy: users.get(row.key) ?? [], broken: broken[0]?.reason ?? null });
    await pace.rest();
  }
  return found;
}

/** Makes a list, empty or from a pasted outline. */
export async function createList(ws: Workspace, account: Account | null, label: string, outline: string): Promise<string> {
  const { items, problems } = readOutline(outline);
  if (problems.length) throw new Refused(422, 'values', problems[0] ?? '', { problems });
  // names of lists that cannot be read are taken too
  const taken = (await listRows(ws.db)).map((l) => l.key);
  const key = keyFromLabel(label, taken);
  await insertList(ws.db, { key, label, items: JSON.stringify(items) }, { at: ws.clock.now(), account: account?.id ?? null });
  ws.modelChanged();
  return key;
}

/** Saves a list as a whole if nobody saved it since; gives the new revision. Refused when values are used twice. */
export async function saveList(ws: Workspace, account: Account, list: OptionList, revision: number): Promise<number> {
  const problems = listProblems(list.items);
  if (problems.length) throw new Refused(422, 'values', problems[0] ?? '', { problems });
  const row = { key: list.key, label: list.label, items: JSON.stringify(list.items), revision };
  if (!(await updateList(ws.db, row, { at: ws.clock.now(), account: account.id }))) {
    if (!(await hasList(ws.db, list.key))) throw notFound(`The list “${list.key}”`);
    throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this list meanwhile. Read it again.', {});
  }
  ws.modelChanged();
  return revision + 1;
}

export async function removeList(ws: Workspace, key: string): Promise<void> {
  const users = (await formsByList(ws)).get(key) ?? [];
  if (users.length) throw new Refused(409, 'inUse', `It is used by ${users.map((u) => u.label).join(', ')}.`, { users });
  if (!(await deleteList(ws.db, key))) throw notFound(`The list “${key}”`);
  ws.modelChanged();
}

interface ColumnOfList {
  readonly table: string;
  readonly column: string;
}
/** The columns that hold choices of a list, in any form's draft or published version. */
async function columnsOfList(ws: Workspace, key: string): Promise<ColumnOfList[]> {
  const found = new Map<string, ColumnOfList>();
  const note = (table: string, fields: Record<string, Field>): void => {
    for (const { source, column } of Object.values(fields))
      if (source?.kind === 'list' && source.list === key && column) found.set(`${table} ${column}`, { table, column });
  };
  for (const { form } of await definitionsInUse(ws)) {
    note(form.table, form.fields);
    for (const lines of Object.values(form.lines)) note(lines.table, lines.fields);
  }
  return [...found.values()];
}

export type HeldIn = Answer<typeof contract.lists.held>[number];

/** Where a value of a list is stored: how many records of which tables. Fields that hold several choices count too. */
export async function valueHeld(ws: Workspace, key: string, value: string): Promise<HeldIn[]> {
  const columns = await columnsOfList(ws, key);
  return ws.reshape(columns.map((c) => c.table), 'valueHeld', [key, value], () => heldIn(ws, columns, value)); // prettier-ignore
}
async function heldIn(ws: Workspace, columns: readonly ColumnOfList[], value: string): Promise<HeldIn[]> {
  const held: HeldIn[] = [];
  for (const { table: tableKey, column: columnKey } of columns) {
    const table = await ws.modelTable(tableKey);
    const column = table.columns.find((c) => c.key === columnKey);
    if (!column) continue;
    const count = (await rowsHolding(ws.db, tableKey, column, value)).length;
    if (count) held.push({ table: tableKey, label: table.label, column: columnKey, columnLabel: column.label, count });
  }
  return held;
}

/** Writes a list's changed value into the records that hold the old one, all of them or none, with their history. */
export async function changeHeld(ws: Workspace, account: Account, key: string, from: string, to: string): Promise<number> {
  if (!(await ws.lists()).get(key)?.items.some((i) => i.value === to))
    throw new Refused(422, 'values', `The list does not offer “${to}”.`, {});
  const columns = await columnsOfList(ws, key);
  const change = (): Promise<number> => heldChanged(ws, account, columns, from, to);
  return ws.reshape(columns.map((c) => c.table), 'changeHeld', [account, key, from, to], change); // prettier-ignore
}
function heldChanged(ws: Workspace, account: Account, columns: readonly ColumnOfList[], from: string, to: string): Promise<number> {
  return ws.db.transaction(async (db) => {
    let changed = 0;
    for (const { table: tableKey, column: columnKey } of columns) {
      const table = await ws.modelTable(tableKey, db);
      const column = table.columns.find((c) => c.key === columnKey);
      if (!column) continue;
      const held = await rowsHolding(db, tableKey, column, from);
      const fresh = held.map(({ id, value }) => ({ id, value: Array.isArray(value) ? value.map((v) => (v === from ? to : v)) : to }));
      await setColumn(db, tableKey, column, fresh, 'revise');
      const changes = (i: number): HistoryEntry['changes'] => ({ [columnKey]: [held[i]?.value ?? null, fresh[i]?.value ?? null] });
      await addHistories(db, held.map(({ id }, i) => ({ table: tableKey, row: id, kind: 'changed', stamp: stampOf(ws, account), changes: changes(i) }))); // prettier-ignore
      changed += held.length;
    }
    return changed;
  });
}

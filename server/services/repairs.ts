import { isFolded } from '../../core/choices/order.ts';
import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { PEOPLE } from '../../core/values/kinds/index.ts';
import { looseKey } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { type Account, movePerson } from '../database/accounts';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories, addHistory } from '../database/history';
import type { ModelTable } from '../database/model';
import { type Moved, markUndone, noteRepair, repairById } from '../database/repairs';
import { deleteRow, restoreRow, rowById, rowsByIds, rowsHolding, rowsSpelled, setColumn } from '../database/rows';
import { Refused, notFound } from './errors';
import { undoSplit } from './splitting';
import { asChanges, rowTexts, stampOf } from './tables';
import type { Workspace } from './workspace';

/* Repairs of spellings: one spelling over others, one row of several. They are shown before, and can be put back after. */

/** Rows that a look at a repair names; there may be more. */
const MOST_SHOWN = 100;
type Respelled = Answer<typeof contract.tables.respell>;
type Merged = Answer<typeof contract.tables.merge>;

/**
 * Writes one spelling of a value over others that differ from it only in case, accents, hyphens and spaces; texts that mean
 * something else are left. With `preview` it only tells which rows that are.
 */
export const respellValues = (ws: Workspace, account: Account, key: string, asked: Respelling): Promise<Respelled> =>
  ws.reshape([key], 'respellValues', [account, key, asked], () => respelled(ws, account, key, asked));

interface Respelling {
  readonly column: string;
  readonly from: readonly string[];
  readonly to: string;
  readonly preview: boolean;
}
async function respelled(ws: Workspace, account: Account, key: string, asked: Respelling): Promise<Respelled> {
  const table = await ws.modelTable(key);
  const column = table.columns.find((c) => c.key === asked.column);
  if (!column || !isFolded(column.type)) throw new Refused(422, 'values', `${table.label} has no text column “${asked.column}”.`, {});
  const same = asked.from.filter((f) => looseKey(f) === looseKey(asked.to) && f !== asked.to);
  const find = async (db: Database): Promise<{ id: number; text: string }[]> =>
    same.length ? (await rowsSpelled(db, key, column.key, same)).filter((r) => r.text !== asked.to) : [];
  if (asked.preview) {
    const found = await find(ws.db);
    const shown = found.slice(0, MOST_SHOWN);
    const texts = await rowTexts(ws, table, await rowsByIds(ws.db, table, shown.map((r) => r.id))); // prettier-ignore
    return {
      changed: found.length,
      repair: null,
      rows: shown.map((r) => ({ id: r.id, known: texts.get(r.id) ?? `row ${r.id}`, was: r.text })),
    };
  }
  return ws.db.transaction(async (db) => {
    const found = await find(db);
    const moved: Moved = { table: key, column: column.key, rows: found.map(({ id, text }) => [id, text, asked.to] as const) };
    await write(ws, db, account, column, moved);
    const repair = found.length ? await noteRepair(db, key, account.id, ws.clock.now(), { moved: [moved], dropped: [] }) : null;
    return { changed: found.length, repair, rows: [] };
  });
}

/** Writes the new values of a column, with a history entry each. */
async function write(ws: Workspace, db: Database, account: Account, column: Column, { table, rows }: Moved): Promise<void> {
  await setColumn(db, table, column, rows.map(([id, , value]) => ({ id, value })), 'revise'); // prettier-ignore
  const stamp = stampOf(ws, account);
  await addHistories(
    db,
    rows.map(([id, was, is]): HistoryEntry => ({ table, row: id, kind: 'changed', stamp, changes: { [column.key]: [was, is] } })),
  );
}

/**
 * Makes one row of several: everything that links to those in `drop` links to `keep`, then they are deleted. One transaction. With
 * `preview` it only tells what links to them.
 */
export async function mergeRows(ws: Workspace, account: Account, key: string, asked: Merging): Promise<Merged> {
  const linking = (await ws.modelTables()).filter((t) => t.key === key || t.columns.some((c) => targetOf(c) === key));
  return ws.reshape(linking.map((t) => t.key), 'mergeRows', [account, key, asked], () => merged(ws, account, key, asked)); // prettier-ignore
}
interface Merging {
  readonly keep: number;
  readonly drop: readonly number[];
  readonly preview: boolean;
}
async function merged(ws: Workspace, account: Account, key: string, asked: Merging): Promise<Merged> {
  const { keep, drop } = asked;
  const table = await ws.modelTable(key);
  const rows = await Promise.all([keep, ...drop].map((id) => rowById(ws.db, table, id)));
  if (!drop.length || rows.includes(null) || new Set([keep, ...drop]).size !== drop.length + 1) throw notFound('One of these rows');
  const dropped = rows.slice(1).map((r) => (r as NonNullable<typeof r>).row);
  return ws.db.transaction(async (db) => {
    const linking: { table: ModelTable; column: Column; rows: { id: number; value: Datum }[] }[] = [];
    for (const other of await ws.modelTables(db))
      for (const column of other.columns) {
        if (targetOf(column) !== key) continue;
        const found = new Map<number, { id: number; value: Datum }>();
        for (const id of drop) for (const r of await rowsHolding(db, other.key, column, id)) found.set(r.id, r);
        if (found.size) linking.push({ table: other, column, rows: [...found.values()] });
      }
    const moved = linking.reduce((n, l) => n + l.rows.length, 0);
    const links = linking.map((l) => ({ table: l.table.key, label: l.table.label, columnLabel: l.column.label, count: l.rows.length }));
    if (asked.preview) return { moved, links, repair: null };
    const gone = new Set<Datum>(drop);
    const kept = (value: Datum): Datum =>
      Array.isArray(value)
        ? [...new Set((value as readonly (string | number | boolean | null)[]).map((v) => (gone.has(v) ? keep : v)))]
        : keep;
    const done = linking.map((l): Moved => ({
      table: l.table.key,
      column: l.column.key,
      // a row that is merged away itself is changed no more
      rows: l.rows.filter((r) => l.table.key !== key || !gone.has(r.id)).map((r) => [r.id, r.value, kept(r.value)] as const),
    })); // prettier-ignore
    for (const [i, m] of done.entries()) await write(ws, db, account, (linking[i] as (typeof linking)[number]).column, m);
    if (key === PEOPLE) for (const id of drop) await movePerson(db, id, keep);
    const stamp = stampOf(ws, account);
    for (const row of dropped) {
      await deleteRow(db, key, row.id);
      await addHistory(db, { table: key, row: row.id, kind: 'deleted', stamp, changes: asChanges(row, {}) });
    }
    // whose account it was cannot be told afterwards
    const repair = key === PEOPLE ? null : await noteRepair(db, key, account.id, ws.clock.now(), { moved: done, dropped });
    ws.rowsChanged(key, -dropped.length);
    return { moved, links, repair };
  });
}

/**
 * Puts back what a repair did: rows that were merged away stand again under their numbers, and every value it changed is what it
 * was, where nobody has changed it since. Refused when it was put back already, or when a column or a number is not free any more.
 */
export async function undoRepair(ws: Workspace, account: Account, key: string, id: number): Promise<Restored> {
  const tables = [key, ...((await repairById(ws.db, id))?.moved ?? []).map((m) => m.table)];
  return ws.reshape(tables, 'undoRepair', [account, key, id], () => putBack(ws, account, key, id));
}
interface Restored {
  readonly restored: number;
  readonly left: number;
}
async function putBack(ws: Workspace, account: Account, key: string, id: number): Promise<Restored> {
  const repair = await repairById(ws.db, id);
  if (!repair || repair.table !== key) throw notFound('This repair');
  if (repair.undone) throw new Refused(409, 'undone', 'This was put back already.', {});
  if (repair.split) return undoSplit(ws, account, { ...repair, split: repair.split });
  const table = await ws.modelTable(key);
  const result = await ws.db.transaction(async (db) => {
    const stamp = stampOf(ws, account);
    for (const row of repair.dropped) {
      if (await rowById(db, table, row.id)) throw new Refused(409, 'inUse', `Row ${row.id} of ${table.label} is another row by now.`, {});
      await restoreRow(db, table, row, stamp);
      await addHistory(db, { table: key, row: row.id, kind: 'created', stamp, changes: asChanges({}, row) });
    }
    let restored = repair.dropped.length;
    let left = 0;
    for (const m of repair.moved) {
      const other = await ws.modelTable(m.table, db);
      const column = other.columns.find((c) => c.key === m.column);
      if (!column) throw new Refused(422, 'values', `${other.label} has no column “${m.column}” any more.`, {});
      const now = new Map((await rowsByIds(db, other, m.rows.map(([row]) => row))).map((r): [number, Row] => [r.id, r])); // prettier-ignore
      const unchanged = m.rows.filter(([row, , is]) => JSON.stringify(now.get(row)?.[m.column] ?? null) === JSON.stringify(is));
      await write(ws, db, account, column, { ...m, rows: unchanged.map(([row, was, is]) => [row, is, was] as const) });
      restored += unchanged.length;
      left += m.rows.length - unchanged.length;
    }
    await markUndone(db, id, ws.clock.now());
    return { restored, left };
  });
  for (const t of new Set([key, ...repair.moved.map((m) => m.table)])) ws.rowsChanged(t, t === key ? repair.dropped.length : 0);
  return result;
}

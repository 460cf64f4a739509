import { type Entry, type StoredLine, type StoredRecord, openEntry } from '../../core/engine/entry.ts';
import type { Origin } from '../../core/engine/origin.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { type Edit, addressOf } from '../../core/engine/state.ts';
import { verify } from '../../core/engine/verify.ts';
import type { Answered } from '../../core/engine/wants.ts';
import type { Form } from '../../core/form/definition.ts';
import type { Feed } from '../../core/form/feeds.ts';
import type { OptionList } from '../../core/form/lists.ts';
import type { Table } from '../../core/form/tables.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { addHistory, historyOf } from '../database/history';
import { originsOf, writeOrigins } from '../database/origins';
import { type RecordRow, childRows, gridRows, insertRow, rowById, updateRow } from '../database/rows';
import { takeNumber } from '../database/series';
import { type Account, accountNames } from './accounts';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
import { type SavedLine, columnValues, saveLines } from './lines';
import { asChanges, linkedTexts, stampOf } from './tables';
import { settleEntry } from './wants';
import type { Workspace } from './workspace';

/** Everything a screen needs to open an entry and settle it without asking again. */
export interface OpenedEntry {
  readonly form: Form;
  readonly version: number;
  readonly tables: readonly Table[];
  readonly lists: readonly OptionList[];
  readonly feeds: readonly Feed[];
  readonly context: { readonly today: string; readonly now: string; readonly me: number; readonly parent: number | null };
  readonly record: (StoredRecord & { readonly id: number; readonly revision: number }) | null;
  readonly answered: readonly Answered[];
}

/** What an entry is opened with, beside the form: the record it stands under, and the values of the address. */
export interface OpenedWith {
  readonly parent: number | null;
  readonly url: Readonly<Record<string, string>>;
}
export const WITH_NOTHING: OpenedWith = { parent: null, url: {} };

interface Stored {
  readonly row: RecordRow;
  readonly record: StoredRecord;
}

/** A record as an entry opens it: its values, its lines, where they came from. */
export async function storedRecord(ws: Workspace, plan: Plan, id: number): Promise<Stored> {
  const table = await ws.modelTable(plan.form.table);
  const row = await rowById(ws.db, table, id);
  if (!row) throw notFound('This record');
  const lines: Record<string, StoredLine[]> = {};
  for (const { key, definition } of plan.lines) {
    const children = await childRows(ws.db, await ws.modelTable(definition.table), definition.link, id, definition.order);
    lines[key] = children.map((c) => ({ id: c.row.id, values: c.row }));
  }
  return { row, record: { values: row.row, origins: (await originsOf(ws.db, table.key, [id])).get(id) ?? {}, lines } };
}

/** The record an entry is to be opened under, if the form has such and it is there. */
async function checkedParent(ws: Workspace, form: Form, parent: number | null): Promise<number | null> {
  if (parent === null || form.parent === null) return null;
  if (!(await rowById(ws.db, await ws.modelTable(form.parent), parent))) throw notFound('The record to open the entry under');
  return parent;
}

/** Opens an entry on the newest version: a new one, or an existing record. */
export async function openForEntry(
  ws: Workspace,
  account: Account,
  formKey: string,
  id: number | null,
  opened: OpenedWith = WITH_NOTHING,
): Promise<OpenedEntry> {
  const { form, version, plan } = await publishedForm(ws, formKey);
  const stored = id === null ? null : await storedRecord(ws, plan, id);
  const now = ws.clock.now();
  const context = { today: now.slice(0, 10), now, me: account.person, parent: await checkedParent(ws, form, opened.parent) };
  const mode = stored ? 'edit' : 'new';
  const entry = openEntry(plan, { ...context, url: opened.url, mode }, ws.newCache(), stored?.record ?? null);
  const answered = await settleEntry(ws, entry, account.person);
  return {
    form,
    version,
    tables: [...plan.tables.values()],
    lists: [...(await ws.lists()).values()],
    feeds: [...(await ws.feeds()).values()],
    context,
    record: stored && { id: id as number, revision: stored.row.revision, ...stored.record },
    answered,
  };
}

export interface SaveRequest {
  readonly version: number;
  readonly edits: readonly Edit[];
  /** for an existing record: the revision the person saw */
  readonly revision: number | null;
  /** the same key is never saved twice */
  readonly request: string;
  readonly opened?: OpenedWith | undefined;
}
export interface Saved {
  readonly id: number;
  readonly revision: number;
  readonly values: Readonly<Record<string, Datum>>;
  /** by group of lines, each line as the screen numbered it with the row it is saved in */
  readonly lines: Readonly<Record<string, readonly SavedLine[]>>;
}

/**
 * Saves what a person did: opens the same plan on the stored record, applies the edits, answers what it wants, judges
 * the result, and writes row, lines, origins and history in one transaction. 422 with one message a field when it may not
 * be saved, 409 when somebody else saved meanwhile; then nothing is written.
 */
export async function saveEntry(ws: Workspace, account: Account, formKey: string, id: number | null, request: SaveRequest): Promise<Saved> {
  for (let tries = 0; ; tries++) {
    try {
      return await saveOnce(ws, account, formKey, id, request);
    } catch (e) {
      // somebody else took the number that was next: the record is computed again with the one after it
      if (!(e instanceof NumberTaken) || tries >= MOST_TRIES) throw e;
    }
  }
}

/** With every save that takes a number another one is done, so that among so many waiting nobody waits for ever. */
const MOST_TRIES = 200;
class NumberTaken extends Error {}

async function saveOnce(ws: Workspace, account: Account, formKey: string, id: number | null, request: SaveRequest): Promise<Saved> {
  const earlier = await earlierAnswer(ws.db, account, request.request);
  if (earlier) return earlier;
  const { form, version, plan } = await publishedForm(ws, formKey, request.version);
  const table = await ws.modelTable(plan.form.table);
  const stored = id === null ? null : await storedRecord(ws, plan, id);
  if (stored && stored.row.revision !== request.revision) {
    throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {
      current: { revision: stored.row.revision, values: stored.row.row },
    });
  }
  const opened = { url: request.opened?.url ?? {}, parent: await checkedParent(ws, form, request.opened?.parent ?? null) };
  const entry = await replay(ws, account, plan, stored?.record ?? null, request.edits, opened);
  const values = columnValues(plan.own, (key) => entry.value(key));
  const stamp = stampOf(ws, account, { key: formKey, version });
  const saved = await ws.db.transaction(async (db): Promise<Saved> => {
    for (const [series, number] of entry.seriesTaken) if (!(await takeNumber(db, series, number))) throw new NumberTaken();
    const rowId = id ?? (await insertRow(db, table, values, stamp));
    if (id !== null && !(await updateRow(db, table, id, request.revision as number, values, stamp))) {
      throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {});
    }
    const { lines, changes } = await saveLines(ws, db, entry, rowId, stored?.record ?? null, stamp);
    await writeOrigins(db, table.key, new Map([[rowId, originsToKeep(entry, lines)]]));
    await addHistory(db, {
      table: table.key,
      row: rowId,
      kind: id === null ? 'created' : 'changed',
      stamp,
      changes: { ...asChanges(stored?.row.row ?? {}, values), ...changes },
      origins: originsSaid(entry),
    });
    const answer: Saved = { id: rowId, revision: id === null ? 1 : (request.revision as number) + 1, values, lines };
    await db('requests').insert({ key: request.request, account_id: account.id, answer: JSON.stringify(answer), at: stamp.at });
    return answer;
  });
  if (id === null) ws.rowsChanged(table.key, 1);
  for (const { definition } of plan.lines) ws.rowsChanged(definition.table);
  return saved;
}

/** Where each stored value came from, by address; an untouched stored value keeps the origin it was first saved with. */
function originsToKeep(entry: Entry, lines: Saved['lines']): Record<string, Origin> {
  const origins: Record<string, Origin> = {};
  const keep = (field: PlanField, line: number | null, savedLine: number | null): void => {
    const { origin } = entry.state(field.key, line);
    if (field.definition.column) origins[addressOf(field.key, savedLine)] = origin.kind === 'stored' ? origin.was : origin;
  };
  for (const field of entry.plan.own) keep(field, null, null);
  for (const { key, first, count } of entry.plan.lines)
    for (const { line, id } of lines[key] ?? []) for (const field of entry.plan.fields.slice(first, first + count)) keep(field, line, id);
  return origins;
}

/** How the values that this save brought came to be, by column: what the history says beside them. */
function originsSaid(entry: Entry): Record<string, Origin['kind']> {
  const said: Record<string, Origin['kind']> = {};
  for (const { key, definition } of entry.plan.own) {
    const { kind } = entry.state(key).origin;
    if (definition.column && kind !== 'stored' && kind !== 'none') said[definition.column] = kind;
  }
  return said;
}

async function earlierAnswer(db: Database, account: Account, key: string): Promise<Saved | null> {
  const row = (await db('requests').where({ key, account_id: account.id }).first()) as { answer: string } | undefined;
  return row ? (JSON.parse(row.answer) as Saved) : null;
}

/** The entry as the person left it, computed again from their edits; refused when it may not be saved. */
async function replay(
  ws: Workspace,
  account: Account,
  plan: Plan,
  record: StoredRecord | null,
  edits: readonly Edit[],
  opened: OpenedWith,
): Promise<Entry> {
  const now = ws.clock.now();
  const context = { ...opened, mode: record ? ('edit' as const) : ('new' as const), today: now.slice(0, 10), now, me: account.person };
  const entry = openEntry(plan, context, ws.newCache(), record);
  await settleEntry(ws, entry, account.person);
  const issues: Record<string, string> = {};
  for (const edit of edits) {
    for (const refused of entry.apply([edit]).refused) issues[addressOf(refused.field, refused.line)] = refused.message;
    await settleEntry(ws, entry, account.person, 'needed');
  }
  for (const issue of verify(entry)) issues[addressOf(issue.field, issue.line)] ??= issue.message;
  if (Object.keys(issues).length) throw new Refused(422, 'fields', 'Some fields are in the way of saving.', { issues });
  return entry;
}

/** A page of a form's records with what their links show. */
export async function listRecords(
  ws: Workspace,
  formKey: string,
  query: { search: string; sort: string | null; descending: boolean; offset: number; limit: number },
): Promise<{
  form: Form;
  version: number;
  columns: Table['columns'];
  rows: RecordRow[];
  total: number;
  linked: Record<string, Record<number, string>>;
}> {
  const { form, version } = await publishedForm(ws, formKey);
  const table = await ws.modelTable(form.table);
  const sort = query.sort ? (table.columns.find((c) => c.key === query.sort) ?? null) : null;
  const { rows, total } = await gridRows(ws.db, table, { ...query, sort });
  return {
    form,
    version,
    columns: table.columns,
    rows,
    total,
    linked: await linkedTexts(
      ws,
      table.columns,
      rows.map((r) => r.row),
    ),
  };
}

/** A record's history with names. */
export async function recordHistory(ws: Workspace, formKey: string, id: number): Promise<unknown[]> {
  const { form } = await publishedForm(ws, formKey);
  const table = await ws.modelTable(form.table);
  const lines = await historyOf(ws.db, table.key, id);
  const names = await accountNames(ws.db);
  const rows = lines.flatMap((l) =>
    [0, 1].map((side) => ({ id: 0, ...Object.fromEntries(Object.entries(l.changes).map(([k, v]) => [k, v[side] ?? null])) })),
  );
  const linked = await linkedTexts(ws, table.columns, rows);
  return lines.map((l) => ({ ...l, by: l.account === null ? 'the demo' : (names.get(l.account) ?? 'somebody'), linked }));
}

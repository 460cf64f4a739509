import { type Entry, type StoredRecord, openEntry } from '../../core/engine/entry.ts';
import { type Origin, parseOrigin } from '../../core/engine/origin.ts';
import type { Plan } from '../../core/engine/plan.ts';
import type { Edit } from '../../core/engine/state.ts';
import { verify } from '../../core/engine/verify.ts';
import type { Answered } from '../../core/engine/wants.ts';
import type { Form } from '../../core/form/definition.ts';
import type { OptionList } from '../../core/form/lists.ts';
import type { Table } from '../../core/form/tables.ts';
import { isDatum } from '../../core/formula/errors.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Database } from '../database/connection';
import { addHistory, historyOf } from '../database/history';
import { type RecordRow, gridRows, insertRow, rowById, updateRow } from '../database/rows';
import { type Account, accountNames } from './accounts';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
import { asChanges, linkedTexts, stampOf } from './tables';
import { settleEntry } from './wants';
import type { Workspace } from './workspace';

/** Everything a screen needs to open an entry and settle it without asking again. */
export interface OpenedEntry {
  readonly form: Form;
  readonly version: number;
  readonly tables: readonly Table[];
  readonly lists: readonly OptionList[];
  readonly context: { readonly today: string; readonly now: string; readonly me: number };
  readonly record: (StoredRecord & { readonly id: number; readonly revision: number }) | null;
  readonly answered: readonly Answered[];
}

async function originsOf(db: Database, table: string, row: number): Promise<Record<string, Origin>> {
  const found = (await db('origins').where({ table_key: table, row_id: row }).first()) as { origins: string } | undefined;
  const raw = found ? (JSON.parse(found.origins) as Record<string, unknown>) : {};
  return Object.fromEntries(Object.entries(raw).map(([key, origin]) => [key, parseOrigin(origin)]));
}

async function storedRecord(ws: Workspace, plan: Plan, id: number): Promise<{ row: RecordRow; record: StoredRecord }> {
  const table = await ws.modelTable(plan.form.table);
  const row = await rowById(ws.db, table, id);
  if (!row) throw notFound('This record');
  return { row, record: { values: row.row, origins: await originsOf(ws.db, table.key, id) } };
}

/** Opens an entry on the newest version: a new one, or an existing record. */
export async function openForEntry(ws: Workspace, account: Account, formKey: string, id: number | null): Promise<OpenedEntry> {
  const { form, version, plan } = await publishedForm(ws, formKey);
  const stored = id === null ? null : await storedRecord(ws, plan, id);
  const now = ws.clock.now();
  const context = { today: now.slice(0, 10), now, me: account.person };
  const entry = openEntry(plan, { ...context, mode: stored ? 'edit' : 'new' }, ws.newCache(), stored?.record ?? null);
  const answered = await settleEntry(ws, entry, account.person);
  return {
    form,
    version,
    tables: [...plan.tables.values()],
    lists: [...(await ws.lists()).values()],
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
}
export interface Saved {
  readonly id: number;
  readonly revision: number;
  readonly values: Readonly<Record<string, Datum>>;
}

/**
 * Saves what a person did: opens the same plan on the stored record, applies the edits, answers what it wants, judges
 * the result, and writes row, origins and history in one transaction. 422 with one message a field when it may not be
 * saved, 409 when somebody else saved meanwhile; then nothing is written.
 */
export async function saveEntry(ws: Workspace, account: Account, formKey: string, id: number | null, request: SaveRequest): Promise<Saved> {
  const earlier = await earlierAnswer(ws.db, account, request.request);
  if (earlier) return earlier;
  const { version, plan } = await publishedForm(ws, formKey, request.version);
  const table = await ws.modelTable(plan.form.table);
  const stored = id === null ? null : await storedRecord(ws, plan, id);
  if (stored && stored.row.revision !== request.revision) {
    throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {
      current: { revision: stored.row.revision, values: stored.row.row },
    });
  }
  const entry = await replay(ws, account, plan, stored?.record ?? null, request.edits);
  const values = columnValues(entry);
  const stamp = stampOf(ws, account, { key: formKey, version });
  const saved = await ws.db.transaction(async (db): Promise<Saved> => {
    const rowId = id ?? (await insertRow(db, table, values, stamp));
    if (id !== null && !(await updateRow(db, table, id, request.revision as number, values, stamp))) {
      throw new Refused(409, 'changedMeanwhile', 'Somebody else saved this record meanwhile.', {});
    }
    const origins = Object.fromEntries(
      entry.plan.fields.filter((f) => f.definition.column).map((f) => [f.key, kept(entry.state(f.key).origin)]),
    );
    await db('origins')
      .insert({ table_key: table.key, row_id: rowId, origins: JSON.stringify(origins) })
      .onConflict(['table_key', 'row_id'])
      .merge();
    await addHistory(db, {
      table: table.key,
      row: rowId,
      kind: id === null ? 'created' : 'changed',
      stamp,
      changes: asChanges(stored?.row.row ?? {}, values),
    });
    const answer: Saved = { id: rowId, revision: id === null ? 1 : (request.revision as number) + 1, values };
    await db('requests').insert({ key: request.request, account_id: account.id, answer: JSON.stringify(answer), at: stamp.at });
    return answer;
  });
  if (id === null) ws.rowsChanged(table.key, 1);
  return saved;
}

/** An untouched stored value keeps the origin it was first saved with. */
const kept = (origin: Origin): Origin => (origin.kind === 'stored' ? origin.was : origin);

async function earlierAnswer(db: Database, account: Account, key: string): Promise<Saved | null> {
  const row = (await db('requests').where({ key, account_id: account.id }).first()) as { answer: string } | undefined;
  return row ? (JSON.parse(row.answer) as Saved) : null;
}

/** The entry as the person left it, computed again from their edits; refused when it may not be saved. */
async function replay(ws: Workspace, account: Account, plan: Plan, record: StoredRecord | null, edits: readonly Edit[]): Promise<Entry> {
  const now = ws.clock.now();
  const context = { mode: record ? ('edit' as const) : ('new' as const), today: now.slice(0, 10), now, me: account.person };
  const entry = openEntry(plan, context, ws.newCache(), record);
  await settleEntry(ws, entry, account.person);
  const issues: Record<string, string> = {};
  for (const edit of edits) {
    for (const refused of entry.apply([edit]).refused) issues[refused.field] = refused.message;
    await settleEntry(ws, entry, account.person);
  }
  for (const issue of verify(entry)) issues[issue.field] ??= issue.message;
  if (Object.keys(issues).length) throw new Refused(422, 'fields', 'Some fields are in the way of saving.', { issues });
  return entry;
}

function columnValues(entry: Entry): Record<string, Datum> {
  const values: Record<string, Datum> = {};
  for (const { key, definition } of entry.plan.fields) {
    const value = entry.value(key);
    // verify has refused errors and unknowns of shown fields; what is hidden is stored as empty then
    if (definition.column) values[definition.column] = isDatum(value) ? value : null;
  }
  return values;
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

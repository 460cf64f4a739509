import type { Given } from '../../core/engine/backfill.ts';
import type { Plan, PlanField, PlanLines } from '../../core/engine/plan.ts';
import type { Form } from '../../core/form/definition.ts';
import type { Column } from '../../core/model/tables.ts';
import { linesAlike, noteText } from '../../core/model/noted.ts';
import { type Origin, firstOrigin } from '../../core/model/origin.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import * as store from '../database/backfills';
import type { Database } from '../database/connection';
import { type StoredHistory, addStoredHistories, storedHistory } from '../database/history';
import { onDisk, writeLater } from '../database/later';
import type { ModelTable } from '../database/model';
import { originTexts, readNoted, writeOriginTexts } from '../database/origins';
import { type RowStamp, type StoredName, type StoredRow, revisionsOf, storedNamesOf, storedRow, updateStored } from '../database/rows';
import { takeNumber } from '../database/series';
import { type BackfillView, backfillView, headOf } from './backfillView';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { Pace, othersFirst } from './pace';
import { stampOf } from './tables';
import type { Workspace } from './workspace';

/** Records written in one transaction, and those that are made ready for it at once, in a thread, while others are written. */
const [BATCH, AHEAD] = [200, 1000];
/** Rows that are written one behind the other before others may have their turn. */
const STEP = 50;

/** In words, for the history of every record. */
function reasonOf(form: Form, head: store.BackfillHead, undone: boolean): string {
  const label = (path: string): string => {
    const [first, second] = path.split('.') as [string, string | undefined];
    return second === undefined
      ? (form.fields[first]?.label ?? first)
      : `${form.lines[first]?.label ?? first}: ${form.lines[first]?.fields[second]?.label ?? second}`;
  };
  const fields = head.asked.fields.map(label).join(', ');
  return undone
    ? `Backfill ${head.id} of ${fields} undone.`
    : `Backfill ${head.id}: ${fields} as version ${head.version} of the form gives it.`;
}

/**
 * Writes what a preview proposed, in batches, each a transaction. A record that somebody changed since the preview is left
 * alone. Cancelled, what was written stays, and can be undone or gone on with. 409 when the form was published meanwhile.
 */
export async function applyBackfill(
  ws: Workspace,
  account: Account,
  key: string,
  id: number,
  job: JobHandle = UNWATCHED,
): Promise<BackfillView> {
  const head = await headOf(ws, key, id);
  const { form, version } = await publishedForm(ws, key);
  if (head.state === 'undone') throw new Refused(409, 'undone', 'This backfill was undone. Make a new preview.', {});
  if (head.version !== version)
    throw new Refused(409, 'changedMeanwhile', `The form was published as version ${version} since this preview. Make a new one.`, {});
  const stamp = stampOf(ws, account, { key, version });
  await store.setBackfill(ws.db, id, { state: 'applied', applied_at: stamp.at });
  await writeAll(ws, { head, version, isUndone: false, stamp, reason: reasonOf(form, head, false) }, job);
  return backfillView(ws, key, id);
}
const CHANGED_SINCE = 'Somebody changed this record since; it was left as it is.';

/** Puts back what an applied backfill wrote, in batches; records that somebody changed since stay as they are. */
export async function undoBackfill(
  ws: Workspace,
  account: Account,
  key: string,
  id: number,
  job: JobHandle = UNWATCHED,
): Promise<BackfillView> {
  const head = await headOf(ws, key, id);
  const { form } = await publishedForm(ws, key, head.version);
  if (head.state !== 'applied') throw new Refused(409, 'notApplied', 'This backfill has nothing to undo.', {});
  await writeAll(ws, { head, version: head.version, isUndone: true, stamp: stampOf(ws, account), reason: reasonOf(form, head, true) }, job);
  await store.setBackfill(ws.db, id, { state: 'undone', undone_at: ws.clock.now() });
  return backfillView(ws, key, id);
}

/** What is written of a backfill: what it gives, or what was there before. */
interface Writing {
  readonly head: store.BackfillHead;
  /** the version of the form that it was proposed by */
  readonly version: number;
  readonly isUndone: boolean;
  readonly stamp: RowStamp;
  /** in words, for the history */
  readonly reason: string;
}
const stateBefore = ({ isUndone }: Writing): store.RecordState => (isUndone ? 'written' : 'proposed');

/**
 * Writes the records of a backfill in batches, each one transaction. What is written is made ready in a thread, so that little is left to do
 * here but the writing. 409 while somebody else does it.
 */
async function writeAll(ws: Workspace, writing: Writing, job: JobHandle): Promise<void> {
  const { head } = writing;
  // two who write the same would take each other for somebody who changed the records
  if (working.has(head.id)) throw new Refused(409, 'underWay', 'This backfill is being worked on already. Wait until that is done.', {});
  working.add(head.id);
  const watched = { at: () => undefined, ...(job.signal ? { signal: job.signal } : {}) };
  const ready = (after: number): Promise<Ready> => ws.work.run('backfillReady', { writing, after }, watched);
  let next: Promise<Ready> | null = null;
  try {
    const total = Math.max(1, (await store.backfillCounts(ws.aside, [head.id])).get(head.id)![stateBefore(writing)]);
    let done = 0;
    for (next = ready(0); next;) {
      const now: Ready = await next;
      next = now.last === null ? null : ready(now.last);
      // what fails while this is written is met when its turn comes
      next?.catch(() => undefined);
      for (let i = 0; i < now.records.length; i += BATCH) {
        job.at(done / total, `${writing.isUndone ? 'putting back' : 'writing'} ${done} of ${total} records`);
        const some = now.records.slice(i, i + BATCH);
        await writeLater(ws.db, (db) => writeBatch(db, now, some, writing));
        done += some.length;
        await othersFirst();
      }
    }
  } finally {
    working.delete(head.id);
    await next?.catch(() => undefined);
    await onDisk(ws.db);
  }
}
const working = new Set<number>();

export interface ReadyAsked {
  readonly writing: Writing;
  /** the last record that was made ready before */
  readonly after: number;
}
/** Some records as they are to be written; plain data, as little as it takes. */
export interface Ready {
  /** the tables they stand in, the form’s own first; and the columns that are written together */
  readonly tables: readonly string[];
  readonly columns: readonly (readonly StoredName[])[];
  readonly records: readonly ReadyRecord[];
  /** the last of them; null where none is behind them */
  readonly last: number | null;
}
interface ReadyRecord extends Pick<store.BackfillRecord, 'id' | 'row' | 'revision' | 'lineRevisions' | 'series'> {
  readonly rows: readonly ReadyRow[];
  /** where its values came from, as it was stored when this was made, and as it is to be */
  readonly noted: string | null;
  readonly notes: string;
}
interface ReadyRow {
  /** the places of its table, and of its columns */
  readonly table: number;
  readonly columns: number;
  readonly revision: number;
  readonly stored: StoredRow;
  readonly history: StoredHistory;
}

/** Makes records ready to be written: reads what a backfill proposed, and makes of it what will stand in the database. */
export async function readyToWrite(ws: Workspace, { writing, after }: ReadyAsked): Promise<Ready> {
  const { head, version, isUndone, stamp, reason } = writing;
  const { plan } = await publishedForm(ws, head.form, version);
  const found = await store.backfillRecords(ws.db, head.id, { states: [stateBefore(writing)], after, limit: AHEAD });
  const keys = [...new Set([plan.form.table, ...plan.lines.map((l) => l.definition.table)])];
  const tables: readonly ModelTable[] = await Promise.all(keys.map((key) => ws.modelTable(key)));
  const shapes = new Map<string, { readonly at: number; readonly columns: readonly Column[] }>();
  const noted = await originTexts(ws.db, plan.form.table, found.map((r) => r.row)); // prettier-ignore
  const column = (g: Given): string => (plan.fields[plan.slots.get(g.field) as number] as PlanField).definition.column as string;
  const from = (g: Given): Datum => (isUndone ? g.to : g.from);
  const to = (g: Given): Datum => (isUndone ? g.from : g.to);
  const ready = ({ key, row, revision, given }: RowWrite): ReadyRow => {
    const at = keys.indexOf(key);
    const table = tables[at] as ModelTable;
    const values: Record<string, Datum> = {};
    const changes: Record<string, readonly [Datum, Datum]> = {};
    const origins: Record<string, Given['origin']['kind']> = {};
    for (const g of given) {
      const name = column(g);
      values[name] = to(g);
      changes[name] = [from(g), to(g)];
      if (!isUndone) origins[name] = g.origin.kind;
    }
    const together = `${key} ${Object.keys(values).join(' ')}`;
    let of = shapes.get(together);
    if (!of) shapes.set(together, (of = { at: shapes.size, columns: table.columns.filter((c) => c.key in values) }));
    const history = storedHistory({ table: key, row, kind: 'changed', stamp, changes, reason, origins });
    return { table: at, columns: of.at, revision, stored: storedRow(row, of.columns, values), history };
  };
  const records: ReadyRecord[] = [];
  for (const record of found) {
    const { id, row, revision, lineRevisions, series } = record;
    const rows = writesOf(plan, record).map(ready);
    const before = noted.get(row) ?? null;
    records.push({ id, row, revision, lineRevisions, series, rows, noted: before, notes: notesOf(record, before, isUndone) });
  }
  const last = found.length < AHEAD ? null : (found.at(-1) as store.BackfillRecord).id;
  return { tables: keys, columns: [...shapes.values()].map((s) => storedNamesOf(s.columns)), records, last };
}

/** A row to be written: a record's own, or that of one of its lines. */
interface RowWrite {
  readonly key: string;
  readonly row: number;
  readonly revision: number;
  readonly given: Given[];
}
/** The rows a record's values stand in. Its own is always one, so that its revision says that it changed. */
function writesOf(plan: Plan, record: store.BackfillRecord): readonly RowWrite[] {
  const own: RowWrite = { key: plan.form.table, row: record.row, revision: record.revision, given: [] };
  const lines = new Map<string, RowWrite>();
  for (const g of record.given) {
    if (g.line === null) {
      own.given.push(g);
      continue;
    }
    const { group } = plan.fields[plan.slots.get(g.field) as number] as PlanField;
    const { table } = (plan.lines[group as number] as PlanLines).definition;
    const at = `${table} ${g.line}`;
    let write = lines.get(at);
    if (!write) lines.set(at, (write = { key: table, row: g.line, revision: record.lineRevisions[g.line] ?? 1, given: [] }));
    write.given.push(g);
  }
  return [own, ...lines.values()];
}
type Came = Record<string, Origin>;
/** Where a record's values will have come from, from what was noted before. */
function notesOf({ given }: store.BackfillRecord, noted: string | null, isUndone: boolean): string {
  const { origins, lines } = readNoted(noted);
  const own: Came = { ...origins };
  const ofLines = new Map<number, Came>();
  for (const g of given) {
    let came = g.line === null ? own : ofLines.get(g.line);
    if (!came) ofLines.set(g.line as number, (came = { ...lines.get(g.line as number) }));
    const origin = isUndone ? g.was : g.origin;
    if (origin) came[g.field] = firstOrigin(origin);
    else Reflect.deleteProperty(came, g.field);
  }
  return noteText(own, linesAlike(new Map([...lines, ...ofLines])));
}

/** Writes a batch of records. One of which any row has another revision by now, or of which something else was noted, is left as it is. */
async function writeBatch(db: Database, { tables, columns }: Ready, records: readonly ReadyRecord[], writing: Writing): Promise<void> {
  // those who only read have their turn in the midst of it
  const pace = new Pace();
  const inSteps = async <T>(all: readonly T[], write: (some: readonly T[]) => Promise<void>): Promise<void> => {
    for (let i = 0; i < all.length; i += STEP) {
      await write(all.slice(i, i + STEP));
      await pace.rest();
    }
  };
  const own = tables[0] as string;
  const noted = await originTexts(db, own, records.map((r) => r.row)); // prettier-ignore
  const revisions: Map<number, number>[] = [];
  for (const [at, table] of tables.entries()) {
    const rows = records.flatMap((r) => r.rows.filter((w) => w.table === at).map((w) => w.stored[0]));
    revisions.push(rows.length ? await revisionsOf(db, table, rows) : new Map<number, number>());
  }
  const isStale = (r: ReadyRecord): boolean =>
    (noted.get(r.row) ?? null) !== r.noted || r.rows.some((w) => revisions[w.table]?.get(w.stored[0]) !== w.revision);
  const good: ReadyRecord[] = [];
  for (const record of records) {
    const problem = isStale(record) ? CHANGED_SINCE : writing.isUndone ? null : await takeNumbers(db, record);
    if (problem !== null) await store.setRecordSkipped(db, record.id, problem);
    else good.push(record);
  }
  const together = new Map<string, { readonly table: string; readonly names: readonly StoredName[]; readonly rows: StoredRow[] }>();
  for (const { table, columns: at, stored } of good.flatMap((r) => r.rows)) {
    const key = `${table} ${at}`;
    let those = together.get(key);
    if (!those) together.set(key, (those = { table: tables[table] as string, names: columns[at] as readonly StoredName[], rows: [] }));
    those.rows.push(stored);
  }
  for (const { table, names, rows } of together.values())
    await inSteps(rows, (some) => updateStored(db, table, names, some, writing.stamp));
  await inSteps(good, (some) => addStoredHistories(db, some.flatMap((r) => r.rows.map((w) => w.history)))); // prettier-ignore
  await inSteps(good, (some) => writeOriginTexts(db, own, some.map((r) => [r.row, r.notes] as const))); // prettier-ignore
  await store.setRecordStates(db, good, writing.isUndone ? 'putBack' : 'written');
}

/** Takes the numbers of series that a record was proposed; a sentence when one is taken already. */
async function takeNumbers(db: Database, { series }: ReadyRecord): Promise<string | null> {
  for (const [name, number] of series) if (!(await takeNumber(db, name, number))) return `Number ${number} of ${name} was taken meanwhile.`;
  return null;
}

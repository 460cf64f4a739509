import type { Given } from '../../core/engine/backfill.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { addressOf } from '../../core/engine/state.ts';
import type { Form } from '../../core/form/definition.ts';
import type { Datum } from '../../core/values/types.ts';
import type { Account } from '../database/accounts';
import * as store from '../database/backfills';
import type { Database } from '../database/connection';
import { type HistoryEntry, addHistories } from '../database/history';
import { type Origins, originsOf, writeOrigins } from '../database/origins';
import { type RowStamp, revisionsOf, updateRows } from '../database/rows';
import { takeNumber } from '../database/series';
import { type BackfillView, backfillView, headOf } from './backfillView';
import { Refused } from './errors';
import { publishedForm } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { Pace, othersFirst } from './pace';
import { stampOf } from './tables';
import type { Workspace } from './workspace';

/** Records written in one transaction. */
const BATCH = 200;

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
  const { form, version, plan } = await publishedForm(ws, key);
  if (head.state === 'undone') throw new Refused(409, 'undone', 'This backfill was undone. Make a new preview.', {});
  if (head.version !== version)
    throw new Refused(409, 'changedMeanwhile', `The form was published as version ${version} since this preview. Make a new one.`, {});
  const stamp = stampOf(ws, account, { key, version });
  const reason = reasonOf(form, head, false);
  await store.setBackfill(ws.db, id, { state: 'applied', applied_at: stamp.at });
  const side: Side = { to: 'written', value: (g) => g.to, was: (g) => g.from, origin: (g) => g.origin };
  await eachBatch(ws, head, 'proposed', job, 'writing', (db, records) => writeBatch(ws, db, plan, records, side, stamp, reason));
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
  const { form, plan } = await publishedForm(ws, key, head.version);
  if (head.state !== 'applied') throw new Refused(409, 'notApplied', 'This backfill has nothing to undo.', {});
  const stamp = stampOf(ws, account);
  const reason = reasonOf(form, head, true);
  const side: Side = { to: 'putBack', value: (g) => g.from, was: (g) => g.to, origin: (g) => g.was };
  await eachBatch(ws, head, 'written', job, 'putting back', (db, records) => writeBatch(ws, db, plan, records, side, stamp, reason));
  await store.setBackfill(ws.db, id, { state: 'undone', undone_at: ws.clock.now() });
  return backfillView(ws, key, id);
}

/** Which side of a change is written: what is given, or what was there before. */
interface Side {
  readonly to: 'written' | 'putBack';
  readonly value: (given: Given) => Datum;
  readonly was: (given: Given) => Datum;
  readonly origin: (given: Given) => Given['was'];
}

/** Goes through the records of a backfill that stand so, in batches, each one transaction. 409 while somebody else does. */
async function eachBatch(
  ws: Workspace,
  head: store.BackfillHead,
  state: store.RecordState,
  job: JobHandle,
  doing: string,
  write: (db: Database, records: readonly store.BackfillRecord[]) => Promise<void>,
): Promise<void> {
  // two who write the same would take each other for somebody who changed the records
  if (working.has(head.id)) throw new Refused(409, 'underWay', 'This backfill is being worked on already. Wait until that is done.', {});
  working.add(head.id);
  try {
    const total = Math.max(1, (await store.backfillCounts(ws.db, head.id))[state]);
    for (let after = 0, done = 0; ;) {
      job.at(done / total, `${doing} ${done} of ${total} records`);
      const records = await store.backfillRecords(ws.db, head.id, { states: [state], after, limit: BATCH });
      if (!records.length) return;
      await ws.db.transaction((db) => write(db, records));
      after = records.at(-1)!.id;
      done += records.length;
      await othersFirst();
    }
  } finally {
    working.delete(head.id);
  }
}
const working = new Set<number>();

/** A row to be written: a record's own, or that of one of its lines. */
interface RowWrite {
  readonly row: number;
  readonly revision: number;
  readonly given: Given[];
}

/** Writes one side of a batch of records. A record of which any row has another revision by now is left as it is. */
async function writeBatch(
  ws: Workspace,
  db: Database,
  plan: Plan,
  records: readonly store.BackfillRecord[],
  side: Side,
  stamp: RowStamp,
  reason: string,
): Promise<void> {
  // those who only read have their turn in the midst of it
  const pace = new Pace();
  const now = new Map<string, Map<number, number>>();
  const byRecord = records.map((record) => ({ record, writes: writesOf(plan, record) }));
  const tables = new Set(byRecord.flatMap(({ writes }) => [...writes.keys()]));
  for (const table of tables)
    now.set(table, await revisionsOf(db, table, byRecord.flatMap(({ writes }) => (writes.get(table) ?? []).map((w) => w.row)))); // prettier-ignore
  const good: typeof byRecord = [];
  for (const one of byRecord) {
    const stale = [...one.writes].some(([table, rows]) => rows.some((w) => now.get(table)?.get(w.row) !== w.revision));
    const taken = stale || side.to === 'putBack' ? null : await takeNumbers(db, one.record);
    if (stale || taken) await store.setRecordSkipped(db, one.record.id, taken ?? CHANGED_SINCE);
    else good.push(one);
  }
  const column = (g: Given): string => plan.fields[plan.slots.get(g.field) as number]!.definition.column as string;
  for (const key of tables) {
    const table = await ws.modelTable(key, db);
    const rows = good.flatMap(({ writes }) => writes.get(key) ?? []);
    const changes = rows.map((w) => ({ id: w.row, values: Object.fromEntries(w.given.map((g) => [column(g), side.value(g)])) }));
    await pace.rest();
    await updateRows(db, table, changes, stamp);
    await pace.rest();
    const said = rows.map((w): HistoryEntry => {
      const of = Object.fromEntries(w.given.map((g) => [column(g), [side.was(g), side.value(g)] as const]));
      const origins = Object.fromEntries(w.given.flatMap((g) => (side.to === 'written' ? [[column(g), g.origin.kind]] : [])));
      return { table: key, row: w.row, kind: 'changed', stamp, changes: of, reason, origins };
    });
    await addHistories(db, said);
    await pace.rest();
  }
  await noteOrigins(db, plan.form.table, good.map((g) => g.record), side); // prettier-ignore
  await store.setRecordStates(db, good.map((g) => g.record), side.to); // prettier-ignore
}

/** The rows a record's values stand in, by table. Its own is always one, so that its revision says that it changed. */
function writesOf(plan: Plan, record: store.BackfillRecord): ReadonlyMap<string, readonly RowWrite[]> {
  const own: RowWrite = { row: record.row, revision: record.revision, given: [] };
  const lines = new Map<string, RowWrite>();
  const byTable = new Map<string, RowWrite[]>([[plan.form.table, [own]]]);
  for (const g of record.given) {
    const group = plan.fields[plan.slots.get(g.field) as number]!.group;
    if (g.line === null || group === null) {
      own.given.push(g);
      continue;
    }
    const { table } = plan.lines[group]!.definition;
    let write = lines.get(`${table} ${g.line}`);
    if (!write) {
      lines.set(`${table} ${g.line}`, (write = { row: g.line, revision: record.lineRevisions[g.line] ?? 1, given: [] }));
      byTable.set(table, [...(byTable.get(table) ?? []), write]);
    }
    write.given.push(g);
  }
  return byTable;
}

/** Takes the numbers of series that a record was proposed; a sentence when one is taken already. */
async function takeNumbers(db: Database, record: store.BackfillRecord): Promise<string | null> {
  for (const [series, number] of record.series)
    if (!(await takeNumber(db, series, number))) return `Number ${number} of ${series} was taken meanwhile.`;
  return null;
}

async function noteOrigins(db: Database, table: string, records: readonly store.BackfillRecord[], side: Side): Promise<void> {
  const before = await originsOf(db, table, records.map((r) => r.row)); // prettier-ignore
  const after = new Map<number, Origins>();
  for (const record of records) {
    const origins = new Map(Object.entries(before.get(record.row) ?? {}));
    for (const g of record.given) {
      const one = side.origin(g);
      if (one) origins.set(addressOf(g.field, g.line), one.kind === 'stored' ? one.was : one);
      else origins.delete(addressOf(g.field, g.line));
    }
    after.set(record.row, Object.fromEntries(origins));
  }
  await writeOrigins(db, table, after);
}

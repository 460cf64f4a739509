import type { Given, Over } from '../../core/engine/backfill.ts';
import { CALCULATED } from '../../core/form/fills/index.ts';
import type { Database } from './connection';
import { datumText } from './packed';
import type { Reading } from './reading';
import { deleteSome, execute, insertMany } from './statement';

/*
 * What backfills look at, propose and have done, kept so that one can be looked at in pages, applied later and undone as
 * one, also after a restart.
 */

export interface BackfillAsked {
  readonly fields: readonly string[];
  readonly over: Over;
  /** a subset of the form's table, or all */
  readonly subset: string | null;
  /** the records that a draft, before it was published, was found to change: those alone */
  readonly impact?: number | null | undefined;
}
export type BackfillState = 'previewed' | 'applied' | 'undone';
/** How one stands in the database while it is forgotten. */
const DROPPED = 'dropped';
export interface BackfillHead {
  readonly id: number;
  readonly form: string;
  readonly version: number;
  readonly asked: BackfillAsked;
  readonly state: BackfillState;
  /** records looked at */
  readonly looked: number;
  readonly at: string;
  readonly account: number | null;
  readonly appliedAt: string | null;
  readonly undoneAt: string | null;
}

/** How a record stands in its backfill: to be written, in the way, written, changed by somebody meanwhile, put back. */
export type RecordState = 'proposed' | 'refused' | 'written' | 'skipped' | 'putBack';
export interface BackfillRecord {
  readonly id: number;
  readonly row: number;
  readonly state: RecordState;
  /** the revisions its row, and the rows of its lines that are written, were read with, or were left with */
  readonly revision: number;
  readonly lineRevisions: Readonly<Record<number, number>>;
  readonly given: readonly Given[];
  readonly series: readonly (readonly [string, number])[];
  readonly problem: string | null;
}

const headFrom = (raw: Record<string, unknown>): BackfillHead => ({
  id: raw.id as number,
  form: raw.form_key as string,
  version: raw.form_version as number,
  asked: JSON.parse(raw.asked as string) as BackfillAsked,
  state: raw.state as BackfillState,
  looked: raw.looked as number,
  at: raw.at as string,
  account: raw.account_id as number | null,
  appliedAt: raw.applied_at as string | null,
  undoneAt: raw.undone_at as string | null,
});
/**
 * There is one of these for every value of every record: they are kept without the names of their properties, and most, which a
 * calculation gives to a field of the record that held nothing noted, as three values alone.
 */
type Packed = readonly [string, Given['from'], Given['to']] | readonly [string, number | null, number | null, Given['from'], Given['to'], Given['origin'], Given['was'], 0 | 1]; // prettier-ignore
const isShort = (g: Given): boolean => g.line === null && g.place === null && g.was === null && g.asked && g.origin.kind === 'calculation';
/** Values as JSON text. What is short is most of it, and written out; the paths of fields are names, which need no escaping. */
function packedGiven(given: readonly Given[]): string {
  let text = '[';
  for (let i = 0; i < given.length; i++) {
    const g = given[i] as Given;
    if (i > 0) text += ',';
    if (isShort(g)) text += `["${g.field}",${datumText(g.from)},${datumText(g.to)}]`;
    else text += JSON.stringify([g.field, g.line, g.place, g.from, g.to, g.origin, g.was, g.asked ? 1 : 0] satisfies Packed);
  }
  return `${text}]`;
}
function unpack(packed: Packed): Given {
  if (packed.length === 3) {
    const [field, from, to] = packed;
    return { field, line: null, place: null, from, to, origin: CALCULATED, was: null, asked: true };
  }
  const [field, line, place, from, to, origin, was, asked] = packed;
  return { field, line, place, from, to, origin, was, asked: asked === 1 };
}

const recordFrom = (raw: Record<string, unknown>): BackfillRecord => ({
  id: raw.id as number,
  row: raw.row_id as number,
  state: raw.state as RecordState,
  revision: raw.revision as number,
  lineRevisions: JSON.parse(raw.line_revisions as string) as Record<number, number>,
  given: (JSON.parse(raw.given as string) as Packed[]).map(unpack),
  series: JSON.parse(raw.series as string) as [string, number][],
  problem: raw.problem as string | null,
});

export async function addBackfill(
  db: Database,
  head: { form: string; version: number; asked: BackfillAsked; at: string; account: number },
): Promise<number> {
  const [id] = (await db('backfills').insert({
    form_key: head.form,
    form_version: head.version,
    asked: JSON.stringify(head.asked),
    state: 'previewed',
    at: head.at,
    account_id: head.account,
  })) as number[];
  return id as number;
}
export const setBackfill = (db: Database, id: number, values: Partial<Record<'state' | 'applied_at' | 'undone_at' | 'looked', unknown>>) =>
  db('backfills').where({ id }).update(values);

export async function backfillHead(db: Database, form: string, id: number): Promise<BackfillHead | null> {
  const raw = (await db('backfills').where({ id, form_key: form }).whereNot({ state: DROPPED }).first()) as
    Record<string, unknown> | undefined;
  return raw ? headFrom(raw) : null;
}
export async function backfillHeads(db: Database, form: string, most = 50): Promise<BackfillHead[]> {
  const raw = (await db('backfills').where({ form_key: form }).whereNot({ state: DROPPED }).orderBy('id', 'desc').limit(most)) as Record<
    string,
    unknown
  >[];
  return raw.map(headFrom);
}
/** Lets nobody find a backfill any more; false when it is applied, or there is none. */
export const hideBackfill = async (db: Database, id: number): Promise<boolean> =>
  (await db('backfills').where({ id }).whereNot({ state: 'applied' }).update({ state: DROPPED })) > 0;
/** Forgets some of its records, and at last the backfill. False when there is more: it is asked again, after others had their turn. */
export async function dropSomeOfBackfill(db: Database, id: number): Promise<boolean> {
  if (await deleteSome(db, 'backfill_rows', 'backfill_id', id)) return false;
  await db('backfills').where({ id }).delete();
  return true;
}
/** Proposals nobody applied, of one form, but for one, and what was not forgotten to its end: by number. */
export const otherProposals = async (db: Database, form: string, but: number): Promise<readonly number[]> =>
  (
    (await db('backfills').where({ form_key: form }).whereIn('state', ['previewed', DROPPED]).whereNot({ id: but }).select('id')) as {
      id: number;
    }[]
  ).map((b) => b.id);

/** A record as it is kept: made where it was computed, so that little goes from thread to thread. */
export type PackedRecord = readonly [row: number, state: RecordState, revision: number, lineRevisions: string, given: string, series: string, problem: string | null]; // prettier-ignore
export const packedRecord = (r: Omit<BackfillRecord, 'id'>): PackedRecord => [
  r.row,
  r.state,
  r.revision,
  JSON.stringify(r.lineRevisions),
  packedGiven(r.given),
  JSON.stringify(r.series),
  r.problem,
];
export const addBackfillRecords = (db: Database, id: number, records: readonly PackedRecord[]): Promise<void> =>
  insertMany(
    db,
    'backfill_rows',
    ['backfill_id', 'row_id', 'state', 'revision', 'line_revisions', 'given', 'series', 'problem'],
    records.map((r) => [id, ...r]),
  );

/** How many records of backfills stand in which state, by backfill. */
export type BackfillCounts = ReadonlyMap<number, Readonly<Record<RecordState, number>>>;
export async function backfillCounts(reading: Reading, ids: readonly number[]): Promise<BackfillCounts> {
  const counts = new Map(ids.map((id) => [id, { proposed: 0, refused: 0, written: 0, skipped: 0, putBack: 0 }]));
  if (!ids.length) return counts;
  const marks = ids.map(() => '?').join(', ');
  const found = (await reading.raw(
    `SELECT backfill_id, state, count(*) AS n FROM backfill_rows WHERE backfill_id IN (${marks}) GROUP BY backfill_id, state`,
    ids,
  )) as { backfill_id: number; state: RecordState; n: number | string }[];
  for (const { backfill_id, state, n } of found) counts.get(backfill_id)![state] = Number(n);
  return counts;
}

/** A page of a backfill's records, in the order they were looked at. */
export async function backfillRecords(
  reading: Reading,
  id: number,
  query: { readonly states: readonly RecordState[]; readonly after?: number; readonly offset?: number; readonly limit: number },
): Promise<BackfillRecord[]> {
  const { states, after = 0, offset = 0, limit } = query;
  const marks = states.map(() => '?').join(', ');
  const found = (await reading.raw(
    `SELECT * FROM backfill_rows WHERE backfill_id = ? AND state IN (${marks}) AND id > ? ORDER BY id LIMIT ? OFFSET ?`,
    [id, ...states, after, limit, offset],
  )) as Record<string, unknown>[];
  return found.map(recordFrom);
}

/** Notes what has become of records: those written or put back have a revision more, in their rows and in their lines. */
export async function setRecordStates(
  db: Database,
  records: readonly Pick<BackfillRecord, 'id' | 'revision' | 'lineRevisions'>[],
  state: 'written' | 'putBack',
): Promise<void> {
  const ids = records.filter((r) => !Object.keys(r.lineRevisions).length).map((r) => r.id);
  if (ids.length) await db('backfill_rows').whereIn('id', ids).update({ state, problem: null }).increment('revision', 1);
  for (const r of records) {
    const lines = Object.entries(r.lineRevisions);
    if (!lines.length) continue;
    const lineRevisions = Object.fromEntries(lines.map(([line, revision]) => [line, revision + 1]));
    const bindings = [state, r.revision + 1, JSON.stringify(lineRevisions), r.id];
    await execute(db, 'UPDATE backfill_rows SET state = ?, problem = NULL, revision = ?, line_revisions = ? WHERE id = ?', bindings);
  }
}
export const setRecordSkipped = (db: Database, id: number, problem: string) =>
  db('backfill_rows').where({ id }).update({ state: 'skipped', problem });

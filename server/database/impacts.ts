import type { Finding, FindingKind } from '../../core/engine/impact.ts';
import type { Database } from './connection';
import { insertMany } from './statement';

/* What drafts were found to do to the records that exist: one line a finding, so that they can be counted, paged and written out. */

export interface ImpactHead {
  readonly id: number;
  readonly form: string;
  /** the version the draft was compared with; null before the first */
  readonly version: number | null;
  readonly draftRevision: number;
  /** the fields whose fills may come out otherwise */
  readonly fields: readonly string[];
  readonly looked: number;
  readonly milliseconds: number;
  readonly at: string;
  readonly account: number | null;
}
/** A finding in a record; `seen` and `unseen` are about people, not about a field: `message` names them, `field` is empty. */
export type ImpactKind = FindingKind | 'seen' | 'unseen';
export interface ImpactRow extends Omit<Finding, 'kind'> {
  readonly row: number;
  readonly kind: ImpactKind;
}
export interface ImpactCount {
  readonly field: string;
  readonly kind: ImpactKind;
  readonly records: number;
  readonly values: number;
}

const headFrom = (raw: Record<string, unknown>): ImpactHead => ({
  id: raw.id as number,
  form: raw.form_key as string,
  version: raw.version as number | null,
  draftRevision: raw.draft_revision as number,
  fields: JSON.parse(raw.fields as string) as string[],
  looked: raw.looked as number,
  milliseconds: raw.milliseconds as number,
  at: raw.at as string,
  account: raw.account_id as number | null,
});
type Packed = readonly [
  number | null,
  number | null,
  Finding['from'],
  Finding['published'],
  Finding['to'],
  Finding['origin'],
  string | null,
];
const pack = (f: ImpactRow): Packed => [f.line, f.place, f.from, f.published, f.to, f.origin, f.message];
function rowFrom(raw: Record<string, unknown>): ImpactRow {
  const [line, place, from, published, to, origin, message] = JSON.parse(raw.found as string) as Packed;
  return {
    row: raw.row_id as number,
    field: raw.field as string,
    kind: raw.kind as ImpactKind,
    line,
    place,
    from,
    published,
    to,
    origin,
    message,
  };
}

export async function addImpact(
  db: Database,
  { form, version, draftRevision, fields, at, account }: Omit<ImpactHead, 'id' | 'looked' | 'milliseconds'>,
): Promise<number> {
  const head = { form_key: form, version, draft_revision: draftRevision, fields: JSON.stringify(fields), at, account_id: account };
  const [id] = (await db('impacts').insert(head)) as number[];
  return id as number;
}
/** What was found of a form so far, by number. */
export const finishedImpacts = async (db: Database, form: string): Promise<readonly number[]> =>
  ((await db('impacts').where({ form_key: form, done: true }).select('id')) as { id: number }[]).map((i) => i.id);
/**
 * Notes that all records were looked at, and forgets what was found of the form before this was begun (`before`); what others found
 * meanwhile, and may be looking at, stays, and what they are still looking for, but for what was begun before `since` and never ended.
 */
export async function finishImpact(
  db: Database,
  { id, form, since, before }: { readonly id: number; readonly form: string; readonly since: string; readonly before: readonly number[] },
  found: { readonly looked: number; readonly milliseconds: number },
): Promise<void> {
  await db('impacts')
    .where({ id })
    .update({ ...found, done: true });
  const others = db('impacts').where({ form_key: form, done: false }).whereNot({ id });
  const abandoned = (await others.where('at', '<', since).select('id')) as { id: number }[];
  for (const old of [...before, ...abandoned.map((o) => o.id)]) await dropImpact(db, old);
}
export async function dropImpact(db: Database, id: number): Promise<void> {
  await db('impact_rows').where({ impact_id: id }).delete();
  await db('impacts').where({ id }).delete();
}
/** A finding as it is kept: made where it was found, so that little goes from thread to thread. */
export type PackedImpact = readonly [row: number, field: string, kind: ImpactKind, found: string];
export const packedImpact = (r: ImpactRow): PackedImpact => [r.row, r.field, r.kind, JSON.stringify(pack(r))];
export const addImpactRows = (db: Database, id: number, rows: readonly PackedImpact[]): Promise<void> =>
  insertMany(db, 'impact_rows', ['impact_id', 'row_id', 'field', 'kind', 'found'], rows.map((r) => [id, ...r])); // prettier-ignore

/** What was found of a form last, if that was finished; or by its number. */
export async function impactHead(db: Database, form: string, id: number | null = null): Promise<ImpactHead | null> {
  const query = db('impacts').where({ form_key: form, done: true }).orderBy('id', 'desc');
  const raw = (await (id === null ? query : query.where({ id })).first()) as Record<string, unknown> | undefined;
  return raw ? headFrom(raw) : null;
}
/** How many records, and values in them, are found what. */
export async function impactCounts(db: Database, id: number): Promise<ImpactCount[]> {
  const raw = (await db('impact_rows')
    .where({ impact_id: id })
    .groupBy('field', 'kind')
    .select('field', 'kind')
    .count({ values: '*' })
    .countDistinct({ records: 'row_id' })) as unknown as ImpactCount[];
  return raw.map((c) => ({ field: c.field, kind: c.kind, records: Number(c.records), values: Number(c.values) }));
}
/** Findings of one field and kind, or all, in the order they were looked at. */
export async function impactRows(
  db: Database,
  id: number,
  query: {
    readonly field?: string | undefined;
    readonly kind?: ImpactKind | undefined;
    readonly after?: number;
    readonly offset?: number;
    readonly limit: number;
  },
): Promise<(ImpactRow & { readonly id: number })[]> {
  const sought = db('impact_rows')
    .where({ impact_id: id })
    .where('id', '>', query.after ?? 0);
  if (query.field !== undefined) void sought.where({ field: query.field });
  if (query.kind !== undefined) void sought.where({ kind: query.kind });
  const raw = (await sought
    .orderBy('id')
    .offset(query.offset ?? 0)
    .limit(query.limit)) as Record<string, unknown>[];
  return raw.map((r) => ({ id: r.id as number, ...rowFrom(r) }));
}
/** The records that a backfill would change. */
export async function changedRows(db: Database, id: number): Promise<number[]> {
  const raw = (await db('impact_rows').where({ impact_id: id, kind: 'change' }).distinct('row_id').orderBy('row_id')) as {
    row_id: number;
  }[];
  return raw.map((r) => r.row_id);
}

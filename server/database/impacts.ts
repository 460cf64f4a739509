import type { Finding, FindingKind } from '../../core/engine/impact.ts';
import type { Database } from './connection';
import { datumText } from './packed';
import type { Reading } from './reading';
import { deleteSome, insertMany } from './statement';

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
export type FoundInRow = Omit<Finding, 'kind'> & { readonly kind: ImpactKind };
export type ImpactRow = FoundInRow & { readonly row: number };
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
/** Notes that all records were looked at. */
export const finishImpact = (
  db: Database,
  id: number,
  found: { readonly looked: number; readonly milliseconds: number },
): Promise<number> =>
  db('impacts')
    .where({ id })
    .update({ ...found, done: true });
/** What was looked for in a form, begun before a moment, and never ended: by number. */
export const abandonedImpacts = async (db: Database, form: string, before: string): Promise<readonly number[]> =>
  ((await db('impacts').where({ form_key: form, done: false }).where('at', '<', before).select('id')) as { id: number }[]).map((i) => i.id);
/** Lets nobody find what was found any more. */
export const hideImpact = (db: Database, id: number): Promise<number> => db('impacts').where({ id }).update({ done: false });
/** Forgets some of what was found, and at last that anybody looked. False when there is more: it is asked again, after others had their turn. */
export async function dropSomeOfImpact(db: Database, id: number): Promise<boolean> {
  if (await deleteSome(db, 'impact_rows', 'impact_id', id)) return false;
  await db('impacts').where({ id }).delete();
  return true;
}
/** A finding as it is kept: made where it was found, so that little goes from thread to thread. */
export type PackedImpact = readonly [row: number, field: string, kind: ImpactKind, found: string];
export function packedImpact(row: number, { field, kind, line, place, from, published, to, origin, message }: FoundInRow): PackedImpact {
  const values = `${datumText(from)},${datumText(published)},${datumText(to)}`;
  return [
    row,
    field,
    kind,
    `[${line},${place},${values},${origin ? JSON.stringify(origin) : null},${message === null ? null : JSON.stringify(message)}]`,
  ];
}
export const addImpactRows = (db: Database, id: number, rows: readonly PackedImpact[]): Promise<void> =>
  insertMany(db, 'impact_rows', ['impact_id', 'row_id', 'field', 'kind', 'found'], rows.map((r) => [id, ...r])); // prettier-ignore

/** What was found of a form last, if that was finished; or by its number. */
export async function impactHead(db: Database, form: string, id: number | null = null): Promise<ImpactHead | null> {
  const query = db('impacts').where({ form_key: form, done: true }).orderBy('id', 'desc');
  const raw = (await (id === null ? query : query.where({ id })).first()) as Record<string, unknown> | undefined;
  return raw ? headFrom(raw) : null;
}
/** How many records, and values in them, are found what. */
export async function impactCounts(reading: Reading, id: number): Promise<ImpactCount[]> {
  const counts = (await reading.raw(
    'SELECT field, kind, count(*) AS n, count(DISTINCT row_id) AS records FROM impact_rows WHERE impact_id = ? GROUP BY field, kind ORDER BY field, kind',
    [id],
  )) as { field: string; kind: ImpactKind; n: number | string; records: number | string }[];
  return counts.map((c) => ({ field: c.field, kind: c.kind, records: Number(c.records), values: Number(c.n) }));
}
/** Findings of one field and kind, or all, in the order they were looked at. */
export async function impactRows(
  reading: Reading,
  id: number,
  query: {
    readonly field?: string | undefined;
    readonly kind?: ImpactKind | undefined;
    readonly after?: number;
    readonly offset?: number;
    readonly limit: number;
  },
): Promise<(ImpactRow & { readonly id: number })[]> {
  const { field, kind, after = 0, offset = 0, limit } = query;
  const only = [...(field === undefined ? [] : [['field', field] as const]), ...(kind === undefined ? [] : [['kind', kind] as const])];
  // the index has those of one field and kind in order; of all, it would have each page sorted anew, and the `+` keeps it from being taken
  const which = [only.length < 2 ? '+impact_id = ?' : 'impact_id = ?', ...only.map(([name]) => `${name} = ?`), 'id > ?'];
  const found = (await reading.raw(`SELECT * FROM impact_rows WHERE ${which.join(' AND ')} ORDER BY id LIMIT ? OFFSET ?`, [
    id,
    ...only.map(([, value]) => value),
    after,
    limit,
    offset,
  ])) as Record<string, unknown>[];
  return found.map((r) => ({ id: r.id as number, ...rowFrom(r) }));
}
/** The records that a backfill would change. */
export async function changedRows(reading: Reading, id: number): Promise<number[]> {
  const rows = (await reading.raw('SELECT DISTINCT row_id FROM impact_rows WHERE impact_id = ? AND kind = ? ORDER BY row_id', [id, 'change'])) as { row_id: number }[]; // prettier-ignore
  return rows.map((r) => r.row_id);
}
/** How many they are. */
export async function changedCount(reading: Reading, id: number): Promise<number> {
  const [counted] = (await reading.raw('SELECT count(DISTINCT row_id) AS n FROM impact_rows WHERE impact_id = ? AND kind = ?', [id, 'change'])) as { n: number | string }[]; // prettier-ignore
  return Number(counted?.n ?? 0);
}

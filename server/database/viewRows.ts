import { isFolded } from '../../core/choices/order.ts';
import type { SumOf } from '../../core/choices/views.ts';
import { type Column, targetOf } from '../../core/model/tables.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum } from '../../core/values/types.ts';
import type { ModelTable } from './model';
import { dialectOf } from './dialect';
import { SQL_NAMES, type Stored, inOrder, rowFrom } from './names';
import type { Reading } from './reading';
import { type RecordRow, recordFrom } from './rows';

/* The records of a view, read by SQL: pages, totals, groups with sums, counts by colour and by day. */

/** A piece of SQL over the rows as `ALIAS`, with what it binds. */
export interface Piece {
  readonly sql: string;
  readonly bindings: readonly Stored[];
}
export const ALIAS = 't';
export const piece = (sql: string, bindings: readonly Stored[] = []): Piece => ({ sql, bindings });

/** A link is sorted, searched and grouped by the text its row is known by, where that is one. */
export interface LinkedBy {
  readonly table: string;
  readonly shown: string;
}
export interface ViewQuery {
  readonly table: ModelTable;
  /** all of these hold */
  readonly where: readonly Piece[];
  readonly search: string;
  /** the texts of linked rows, by column */
  readonly linked: ReadonlyMap<string, LinkedBy>;
  readonly group: { readonly column: Column; readonly by: 'value' | 'month' | 'year' } | null;
  readonly sort: readonly { readonly column: Column; readonly descending: boolean }[];
  /** the first that holds is a row’s colour */
  readonly colours: readonly Piece[];
  /** at the end, and where nothing else is said, the newest come first */
  readonly newestFirst: boolean;
}

const linkText = (link: LinkedBy, value: string): string =>
  `(SELECT ${SQL_NAMES.foldColumn('v', link.shown)} FROM ${SQL_NAMES.table(link.table)} v WHERE v.id = ${value})`;
/** What a column is put in order by. */
function orderOf(column: Column, linked: ViewQuery['linked']): string {
  const link = linked.get(column.key);
  if (link) return linkText(link, SQL_NAMES.column(ALIAS, column.key));
  return isFolded(column.type) ? SQL_NAMES.foldColumn(ALIAS, column.key) : SQL_NAMES.column(ALIAS, column.key);
}
const groupOf = ({ column, by }: NonNullable<ViewQuery['group']>, linked: ViewQuery['linked']): string =>
  by === 'value' ? orderOf(column, linked) : `substr(${SQL_NAMES.column(ALIAS, column.key)}, 1, ${by === 'month' ? 7 : 4})`;

/** What is searched: texts, what linked rows are called, and the number of a record. */
function searched({ table, search, linked }: ViewQuery): Piece | null {
  const sought = foldText(search.trim());
  if (sought === '') return null;
  const parts: Piece[] = [];
  for (const c of table.columns) {
    const link = linked.get(c.key);
    if (isFolded(c.type)) parts.push(piece(`instr(${SQL_NAMES.foldColumn(ALIAS, c.key)}, ?) > 0`, [sought]));
    else if (link && targetOf(c) !== null)
      parts.push(piece(`${SQL_NAMES.column(ALIAS, c.key)} IN (SELECT v.id FROM ${SQL_NAMES.table(link.table)} v WHERE instr(${SQL_NAMES.foldColumn('v', link.shown)}, ?) > 0)`, [sought])); // prettier-ignore
  }
  if (/^\d{1,15}$/.test(sought)) parts.push(piece(`${SQL_NAMES.column(ALIAS, 'id')} = ?`, [Number(sought)]));
  return parts.length ? joined(parts, ' OR ') : piece('1 = 0');
}
const joined = (parts: readonly Piece[], word: string): Piece =>
  piece(`(${parts.map((p) => p.sql).join(word)})`, parts.flatMap((p) => p.bindings)); // prettier-ignore

function whereOf(query: ViewQuery): Piece {
  const { seen } = query.table;
  const search = searched(query);
  const parts = [...query.where, ...(search ? [search] : []), ...(seen ? [piece(seen.sql(ALIAS), seen.bindings)] : [])];
  return parts.length ? piece(` WHERE ${joined(parts, ' AND ').sql}`, parts.flatMap((p) => p.bindings)) : piece(''); // prettier-ignore
}
/** The place of the first colour that holds, from 0; NULL where none does. */
function colourOf({ colours }: ViewQuery): Piece {
  if (!colours.length) return piece('NULL');
  return piece(`CASE ${colours.map((c, i) => `WHEN ${c.sql} THEN ${i}`).join(' ')} END`, colours.flatMap((c) => c.bindings)); // prettier-ignore
}
const fromOf = (query: ViewQuery): string => ` FROM ${SQL_NAMES.table(query.table.key)} ${ALIAS}`;

export interface ViewRow extends RecordRow {
  readonly colour: number | null;
}
/** What puts a view in order. */
function orderBy(query: ViewQuery): string {
  const order = [
    ...(query.group ? [groupOf(query.group, query.linked) + inOrder(false)] : []),
    ...query.sort.map((s) => orderOf(s.column, query.linked) + inOrder(s.descending)),
    `${SQL_NAMES.column(ALIAS, 'id')}${query.newestFirst ? ' DESC' : ''}`,
  ];
  return ` ORDER BY ${order.join(', ')}`;
}
/** The statement a page is read with; a test looks at how it is carried out. */
export function pageStatement(query: ViewQuery, offset: number, limit: number): Piece {
  const [where, colour] = [whereOf(query), colourOf(query)];
  return piece(`SELECT ${ALIAS}.*, ${colour.sql} AS _colour${fromOf(query)}${where.sql}${orderBy(query)} LIMIT ? OFFSET ?`, [
    ...colour.bindings,
    ...where.bindings,
    limit,
    offset,
  ]);
}
const all = async <R>(db: Reading, { sql, bindings }: Piece): Promise<R[]> => (await db.raw(sql, [...bindings])) as R[];

/** One page, in the view’s order: groups together, then as it is sorted, then the newest first. */
export async function viewPage(db: Reading, query: ViewQuery, offset: number, limit: number): Promise<ViewRow[]> {
  const rows = await all<Record<string, unknown>>(db, pageStatement(query, offset, limit));
  return rows.map((raw) => ({ ...recordFrom(raw, query.table.columns), colour: raw._colour as number | null }));
}
/** The numbers of all records of a view, in its order. */
export async function viewIds(db: Reading, query: ViewQuery): Promise<number[]> {
  const where = whereOf(query);
  const sql = `SELECT ${SQL_NAMES.column(ALIAS, 'id')} AS id${fromOf(query)}${where.sql}${orderBy(query)}`;
  // one text, since so many objects would take long on their way from a thread
  const [found] = await all<{ ids: string }>(
    db,
    piece(`SELECT ${dialectOf(db).gathered('id')} AS ids FROM (${sql}) AS found`, where.bindings),
  );
  return JSON.parse(found?.ids ?? '[]') as number[];
}
/** Records of a view by their numbers, in that order; those that are no longer in it are left out. */
export async function viewRowsOf(db: Reading, query: ViewQuery, ids: readonly number[]): Promise<ViewRow[]> {
  const named = piece(`${SQL_NAMES.column(ALIAS, 'id')} IN (${dialectOf(db).ids('?')})`, [JSON.stringify(ids)]);
  const rows = await viewPage(db, { ...query, group: null, sort: [], where: [...query.where, named] }, 0, ids.length);
  const byId = new Map(rows.map((r) => [r.row.id, r]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}
export interface SumAsked {
  readonly column: Column;
  readonly of: SumOf;
}
const SUM_SQL = { sum: 'sum', mean: 'avg', least: 'min', most: 'max' } as const;
const sumsOf = (sums: readonly SumAsked[]): string =>
  sums.map(({ column, of }, i) => `, ${SUM_SQL[of]}(${SQL_NAMES.column(ALIAS, column.key)}) AS s${i}`).join('');
const readSums = (raw: Record<string, unknown>, sums: readonly SumAsked[]): (Datum | null)[] =>
  sums.map(({ column, of }, i) => {
    const value = (raw[`s${i}`] ?? null) as Datum;
    // what binary fractions leave behind is no part of a sum
    if (typeof value === 'number') return Number(value.toPrecision(15));
    return of === 'least' || of === 'most' ? (rowFrom({ id: 0, [column.key]: value }, [column])[column.key] ?? null) : null;
  });

/** How many there are, in all and by colour, with sums over all. */
export async function viewTotals(
  db: Reading,
  query: ViewQuery,
  sums: readonly SumAsked[],
): Promise<{ total: number; sums: Datum[]; byColour: number[] }> {
  const where = whereOf(query);
  const [raw] = await all<Record<string, unknown>>(
    db,
    piece(`SELECT count(*) AS n${sumsOf(sums)}${fromOf(query)}${where.sql}`, where.bindings),
  );
  const byColour = query.colours.map(() => 0);
  if (query.colours.length) {
    const colour = colourOf(query);
    const counted = piece(`SELECT ${colour.sql} AS c, count(*) AS n${fromOf(query)}${where.sql} GROUP BY c`, [...colour.bindings, ...where.bindings]); // prettier-ignore
    for (const { c, n } of await all<{ c: number | null; n: number }>(db, counted)) if (c !== null) byColour[c] = n;
  }
  return { total: Number(raw?.n ?? 0), sums: readSums(raw ?? {}, sums), byColour };
}

export interface ViewGroup {
  readonly value: Datum;
  readonly count: number;
  readonly sums: readonly Datum[];
}
/** The groups in the order their records stand in, with how many each has, and sums; null where there are more than `most`. */
export async function viewGroups(db: Reading, query: ViewQuery, sums: readonly SumAsked[], most: number): Promise<ViewGroup[] | null> {
  const { group } = query;
  if (!group) return [];
  const where = whereOf(query);
  const by = groupOf(group, query.linked);
  const value = group.by === 'value' ? `min(${SQL_NAMES.column(ALIAS, group.column.key)})` : by;
  const rows = await all<Record<string, unknown>>(
    db,
    piece(`SELECT ${value} AS value, count(*) AS n${sumsOf(sums)}${fromOf(query)}${where.sql} GROUP BY ${by} ORDER BY ${by}${inOrder(false)} LIMIT ?`, [...where.bindings, most + 1]), // prettier-ignore
  );
  if (rows.length > most) return null;
  const read = (raw: Record<string, unknown>): Datum =>
    group.by === 'value'
      ? (rowFrom({ id: 0, [group.column.key]: raw.value }, [group.column])[group.column.key] ?? null)
      : ((raw.value ?? null) as Datum);
  return rows.map((raw) => ({ value: read(raw), count: Number(raw.n), sums: readSums(raw, sums) }));
}

/** How many records stand on each day of a span, by colour; `until` makes a record stand on all its days, of which the first is counted. */
export async function viewDays(
  db: Reading,
  query: ViewQuery,
  on: { readonly column: Column; readonly from: string; readonly before: string },
): Promise<{ day: string; colour: number | null; count: number }[]> {
  const where = whereOf({ ...query, where: [...query.where, spanOf(on.column, null, on.from, on.before)] });
  const colour = colourOf(query);
  const day = `substr(${SQL_NAMES.column(ALIAS, on.column.key)}, 1, 10)`;
  const counted = piece(`SELECT ${day} AS day, ${colour.sql} AS colour, count(*) AS count${fromOf(query)}${where.sql} GROUP BY 1, 2 ORDER BY 1, 2`, [...colour.bindings, ...where.bindings]); // prettier-ignore
  return (await all<{ day: string; colour: number | null; count: number }>(db, counted)).map((r) => ({ ...r, count: Number(r.count) }));
}
/** Records that stand in a span of days: those that begin in it, and where they end, those that reach into it. */
export function spanOf(from: Column, until: Column | null, first: string, before: string): Piece {
  const [begins, ends] = [SQL_NAMES.column(ALIAS, from.key), until && SQL_NAMES.column(ALIAS, until.key)];
  if (ends === null) return piece(`(${begins} >= ? AND ${begins} < ?)`, [first, before]);
  return piece(`(${begins} < ? AND (${begins} >= ? OR ${ends} >= ?))`, [before, first, first]);
}

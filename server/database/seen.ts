import { isFolded } from '../../core/choices/order.ts';
import { type Column, isSeveral, targetOf } from '../../core/model/tables.ts';
import { foldText } from '../../core/values/text.ts';
import type { Database } from './connection';
import type { Dialect } from './dialect';
import { SQL_NAMES, type Stored, dataTable } from './names';

/** Which rows of a table somebody sees, as a condition in SQL over the name or alias its rows are read by. */
export interface SeenRows {
  readonly sql: (alias: string) => string;
  readonly bindings: readonly Stored[];
}
/** Whose records of a table are: people and teams in these columns. */
export interface OwnedBy {
  readonly columns: readonly Column[];
  /** whether whoever entered a record sees it */
  readonly creator: boolean;
}
export interface Onlooker {
  readonly account: number | null;
  readonly person: number | null;
  readonly team: string | null;
}

/** The rows that belong to somebody, or to nobody. */
export function ownedRows(dialect: Dialect, { columns, creator }: OwnedBy, who: Onlooker): SeenRows {
  const bindings: Stored[] = [];
  const parts: ((alias: string) => string)[] = [];
  // of nobody's: everybody sees it
  parts.push((a) => `(${columns.map((c) => isSeveral(c.type) ? `coalesce(${dialect.length(SQL_NAMES.column(a, c.key))}, 0) = 0` : `${SQL_NAMES.column(a, c.key)} IS NULL`).join(' AND ')})`); // prettier-ignore
  const put = (value: Stored, sql: (alias: string) => string): void => {
    parts.push(sql);
    bindings.push(value);
  };
  for (const c of columns) {
    const isPeople = targetOf(c) === 'people';
    if (isPeople && who.person !== null)
      put(who.person, isSeveral(c.type) ? (a) => dialect.holds(SQL_NAMES.column(a, c.key), '?', false) : (a) => `${SQL_NAMES.column(a, c.key)} = ?`); // prettier-ignore
    else if (!isPeople && targetOf(c) === null && who.team)
      put(foldText(who.team), isFolded(c.type) ? (a) => `${SQL_NAMES.foldColumn(a, c.key)} = ?` : (a) => `upper(${SQL_NAMES.column(a, c.key)}) = ?`); // prettier-ignore
  }
  if (creator && who.account !== null) put(who.account, (a) => `${a}."_created_by" = ?`);
  return { sql: (a) => `(${parts.map((p) => p(a)).join(' OR ')})`, bindings };
}
/** Rows of lines that stand in a record somebody sees; those of no record are everybody's. */
export function linesSeen(parent: string, link: string, seen: SeenRows): SeenRows {
  return {
    sql: (a) => `(${SQL_NAMES.column(a, link)} IS NULL OR EXISTS (SELECT 1 FROM ${SQL_NAMES.table(parent)} seen_p WHERE seen_p.id = ${SQL_NAMES.column(a, link)} AND ${seen.sql('seen_p')}))`, // prettier-ignore
    bindings: seen.bindings,
  };
}
/** Rows that meet all of several conditions; undefined where there is none. */
export const seenByAll = (all: readonly SeenRows[]): SeenRows | undefined =>
  all.length ? { sql: (a) => all.map((s) => s.sql(a)).join(' AND '), bindings: all.flatMap((s) => s.bindings) } : undefined;

/** The rows of a table that are seen one way (all, where nothing is said) and not another. */
export async function seenOnlyOneWay(db: Database, table: string, way: SeenRows | undefined, other: SeenRows): Promise<number[]> {
  const name = `"${dataTable(table)}"`;
  const seen = way ?? { sql: () => '1 = 1', bindings: [] };
  const bindings = [...seen.bindings, ...other.bindings];
  const rows = await db.raw<{ id: number }[]>(`SELECT id FROM ${name} WHERE ${seen.sql(name)} AND NOT ${other.sql(name)}`, bindings);
  return rows.map((r) => r.id);
}

interface Whereable {
  whereRaw(sql: string, bindings: readonly Stored[]): unknown;
}
/** A query over a table's own name, with the rows left out that are not seen. */
export function onlySeen<Q extends Whereable>(query: Q, table: { readonly key: string; readonly seen?: SeenRows | undefined }): Q {
  if (table.seen) query.whereRaw(table.seen.sql(`"${dataTable(table.key)}"`), table.seen.bindings);
  return query;
}

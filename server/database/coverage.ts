import type { SqlFragment } from '../../core/formula/sql.ts';
import type { Spelled } from '../../core/choices/coverage.ts';
import { dialectOf } from './dialect';
import type { Reading } from './reading';
import { SQL_NAMES } from './names';

/*
 * Counts for cascades, straight from the database: one grouped query a level, whatever the size. A condition that the
 * list always asks (only active ones) is given as SQL over alias `c`, that of the level above over `p`.
 */

export interface LevelSummary {
  readonly rows: number;
  readonly offered: number;
  /** rows without a row above */
  readonly orphans: number;
  /** rows above with nothing offered below them, with exactly one, and how many there are at all */
  readonly gaps: number;
  readonly singles: number;
  readonly parents: number;
}

const conditionSql = (c: SqlFragment | null): { sql: string; bindings: (string | number | null)[] } => ({
  sql: c ? `(${c.sql})` : '1 = 1',
  bindings: (c?.bindings ?? []).map((b) =>
    'value' in b ? (typeof b.value === 'boolean' ? Number(b.value) : (b.value as string | number | null)) : null,
  ),
});

export async function levelSummary(
  db: Reading,
  level: { table: string; link: string | null; above: string | null; condition: SqlFragment | null; aboveCondition: SqlFragment | null },
): Promise<LevelSummary> {
  const { sql, bindings } = conditionSql(level.condition);
  const link = level.link ? SQL_NAMES.column('c', level.link) : 'NULL';
  const [counts] = (await db.raw(
    `SELECT count(*) AS n, sum(CASE WHEN ${sql} THEN 1 ELSE 0 END) AS offered, sum(CASE WHEN ${link} IS NULL THEN 1 ELSE 0 END) AS orphans FROM ${SQL_NAMES.table(level.table)} c`,
    bindings,
  )) as { n: number; offered: number | null; orphans: number | null }[];
  const rows = counts?.n ?? 0;
  if (!level.link || !level.above) return { rows, offered: counts?.offered ?? 0, orphans: 0, gaps: 0, singles: 0, parents: 0 };
  const aboveSql = conditionSql(level.aboveCondition);
  const [below] = (await db.raw(
    `SELECT count(*) AS parents, sum(CASE WHEN coalesce(g.n, 0) = 0 THEN 1 ELSE 0 END) AS gaps, sum(CASE WHEN g.n = 1 THEN 1 ELSE 0 END) AS singles
     FROM ${SQL_NAMES.table(level.above)} p
     LEFT JOIN (SELECT ${link} AS parent, count(*) AS n FROM ${SQL_NAMES.table(level.table)} c WHERE ${sql} GROUP BY ${link}) g ON g.parent = p.id
     WHERE ${aboveSql.sql}`,
    [...bindings, ...aboveSql.bindings],
  )) as { parents: number; gaps: number | null; singles: number | null }[];
  return {
    rows,
    offered: counts?.offered ?? 0,
    orphans: counts?.orphans ?? 0,
    gaps: below?.gaps ?? 0,
    singles: below?.singles ?? 0,
    parents: below?.parents ?? 0,
  };
}

export interface CascadeRow {
  readonly id: number;
  /** the row above, by its id; null at the top level and for what hangs on nothing */
  readonly parent: number | null;
  readonly text: string | null;
  /** whether its own list offers it at all */
  readonly offered: boolean;
  /** children in the level below, and how many of them are offered; null at the last level */
  readonly children: number | null;
  readonly childrenOffered: number | null;
}

export type Only = 'all' | 'gaps' | 'singles' | 'orphans';

/** Rows of a level, under one row above or all, with the number of their children. At most `limit`, in the order of their names. */
export async function cascadeRows(
  db: Reading,
  level: { table: string; shown: string | null; link: string | null; condition: SqlFragment | null },
  below: { table: string; link: string; condition: SqlFragment | null } | null,
  query: { parent: number | null; only: Only; limit: number; offset: number },
): Promise<{ rows: CascadeRow[]; total: number }> {
  const own = conditionSql(level.condition);
  const child = conditionSql(below?.condition ?? null);
  const text = level.shown ? SQL_NAMES.column('c', level.shown) : 'NULL';
  const counts = below
    ? `LEFT JOIN (SELECT ${SQL_NAMES.column('c', below.link)} AS parent, count(*) AS n, sum(CASE WHEN ${child.sql} THEN 1 ELSE 0 END) AS offered FROM ${SQL_NAMES.table(below.table)} c GROUP BY ${SQL_NAMES.column('c', below.link)}) g ON g.parent = c.id`
    : '';
  const where: string[] = [];
  const bindings: (string | number | null)[] = [...(below ? child.bindings : [])];
  if (query.parent !== null && level.link) {
    where.push(`${SQL_NAMES.column('c', level.link)} = ?`);
    bindings.push(query.parent);
  }
  if (query.only === 'orphans' && level.link) where.push(`${SQL_NAMES.column('c', level.link)} IS NULL`);
  if (query.only === 'gaps' && below) where.push('coalesce(g.offered, 0) = 0');
  if (query.only === 'singles' && below) where.push('g.offered = 1');
  const filter = where.length ? `WHERE ${where.join(' AND ')}` : '';
  const from = `FROM ${SQL_NAMES.table(level.table)} c ${counts} ${filter}`;
  const [counted] = (await db.raw(`SELECT count(*) AS n ${from}`, bindings)) as { n: number }[];
  const order = level.shown ? `${text} IS NULL, ${text}, c.id` : 'c.id';
  const rows = (await db.raw(
    `SELECT c.id AS id, ${level.link ? SQL_NAMES.column('c', level.link) : 'NULL'} AS parent, ${text} AS text, CASE WHEN ${own.sql} THEN 1 ELSE 0 END AS offered, ${below ? 'coalesce(g.n, 0)' : 'NULL'} AS children, ${below ? 'coalesce(g.offered, 0)' : 'NULL'} AS "childrenOffered" ${from} ORDER BY ${order} LIMIT ? OFFSET ?`,
    [...own.bindings, ...bindings, query.limit, query.offset],
  )) as {
    id: number;
    parent: number | null;
    text: string | number | null;
    offered: number;
    children: number | null;
    childrenOffered: number | null;
  }[];
  return {
    total: counted?.n ?? 0,
    rows: rows.map((r) => ({ ...r, text: r.text === null ? null : String(r.text), offered: r.offered === 1 })),
  };
}

/** How often each text of a column stands, with the ids of up to 20 of its rows: what near duplicates are found among. */
export async function spellings(db: Reading, table: string, column: string, withIds: boolean): Promise<Spelled[]> {
  const c = SQL_NAMES.column('c', column);
  const raw = (await db.raw(
    `SELECT ${c} AS text, count(*) AS n, ${withIds ? dialectOf(db).gathered('c.id') : "'[]'"} AS ids FROM ${SQL_NAMES.table(table)} c WHERE ${c} IS NOT NULL GROUP BY ${c}`,
  )) as { text: string; n: number; ids: string }[];
  return raw.map((r) => ({ text: String(r.text), count: r.n, ids: (JSON.parse(r.ids) as number[]).slice(0, 20) })); // prettier-ignore
}

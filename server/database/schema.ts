import type { Database } from './connection';
import { dialectOf } from './dialect';

/* What tables and indexes a database has, asked as each kind of database wants to be asked. */

/** An index that was made for a table, with its columns in order. */
export interface KnownIndex {
  readonly name: string;
  readonly columns: readonly string[];
}

/** The indexes of a table (by its SQL name) beside those of its keys. */
export async function indexesOf(db: Database, table: string): Promise<KnownIndex[]> {
  if (dialectOf(db).name === 'postgres') {
    const rows = (await db.raw(
      `SELECT i.relname AS name, a.attname AS column FROM pg_index x
       JOIN pg_class i ON i.oid = x.indexrelid JOIN pg_class t ON t.oid = x.indrelid
       CROSS JOIN LATERAL unnest(x.indkey) WITH ORDINALITY AS k(attnum, place)
       JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = k.attnum
       WHERE t.relname = ?::name AND t.relnamespace = current_schema()::regnamespace AND NOT x.indisprimary AND NOT x.indisunique ORDER BY i.relname, k.place`,
      [table],
    )) as { name: string; column: string }[];
    const found = new Map<string, string[]>();
    for (const { name, column } of rows) found.set(name, [...(found.get(name) ?? []), column]);
    return [...found].map(([name, columns]) => ({ name, columns }));
  }
  const names = (await db.raw(`SELECT name FROM sqlite_master WHERE type = 'index' AND tbl_name = ? AND sql IS NOT NULL`, [table])) as {
    name: string;
  }[];
  const found: KnownIndex[] = [];
  for (const { name } of names) {
    const columns = (await db.raw(`SELECT name FROM pragma_index_info(?) ORDER BY seqno`, [name])) as { name: string }[];
    found.push({ name, columns: columns.map((c) => c.name) });
  }
  return found;
}

/** The tables whose SQL names begin so. */
export async function tablesNamed(db: Database, beginning: string): Promise<string[]> {
  const of =
    dialectOf(db).name === 'postgres' ? `pg_tables WHERE schemaname = current_schema() AND` : `sqlite_master WHERE type = 'table' AND`;
  const name = dialectOf(db).name === 'postgres' ? 'tablename' : 'name';
  const rows = (await db.raw(`SELECT ${name} AS name FROM ${of} substr(${name}, 1, ?) = ? ORDER BY 1`, [beginning.length, beginning])) as {
    name: string;
  }[];
  return rows.map((r) => r.name);
}

/** Whether there is a table or an index of this SQL name. */
export async function isThere(db: Database, name: string): Promise<boolean> {
  const sql =
    dialectOf(db).name === 'postgres'
      ? `SELECT 1 FROM pg_class WHERE relname = ?::name AND relnamespace = current_schema()::regnamespace`
      : `SELECT 1 FROM sqlite_master WHERE name = ?`;
  return ((await db.raw(sql, [name])) as unknown[]).length > 0;
}

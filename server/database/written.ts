/* Which tables a statement writes, told from its text: for noting what is no longer as it was read. */

const WRITES =
  /^\s*(?:insert(?:\s+or\s+\w+)?\s+into|replace\s+into|update|delete\s+from|alter\s+table|drop\s+table(?:\s+if\s+exists)?|create\s+table(?:\s+if\s+not\s+exists)?)\s+[`"]?(\w+)/i;
const RENAMES = /\brename\s+to\s+[`"]?(\w+)/i;
const OF_SCHEMA = /^\s*(?:alter|drop|create)\b/i;
/** Tables that grow with saves and of which nothing is kept. */
const NEVER_KEPT = new Set(['history', 'origins', 'requests', 'series', 'entry_counts', 'changes', 'impact_rows', 'backfill_rows']);
/** Tables of an import under way, which get their own name when it is done, search indexes with how far they are filled, and what a retyping notes. */
const PASSING = /^(importing|fts|filling|retyping)_/;

/** The SQL names of the tables that a statement writes, as far as anything is kept of them. */
export function tablesWritten(sql: string): string[] {
  const table = WRITES.exec(sql)?.[1];
  const other = table === undefined ? undefined : RENAMES.exec(sql)?.[1];
  return [table, other].filter((t) => t !== undefined && !NEVER_KEPT.has(t) && !PASSING.test(t)) as string[];
}
/** What is noted as written where nothing is kept of it: that the database is another is then no secret hand's doing. */
export const REST = '-';
/** Whether a statement writes rows, or changes tables. */
export const isWrite = (sql: string): boolean => WRITES.test(sql);
/** Whether a statement changes what tables, columns and indexes there are. */
export const isOfSchema = (sql: string): boolean => OF_SCHEMA.test(sql);
/** What is noted as written when it does. */
export const SCHEMA = 'sqlite_master';

/** What was written of a table: rows, by their numbers, or any of them. */
export type RowsWritten = ReadonlySet<number> | 'any';
/** Rows of one table told apart in one transaction; where more are written, it may be any. */
const MOST_ROWS = 50;

/** What a transaction has written so far. */
export class Written {
  private readonly rows = new Map<string, Set<number> | 'any'>();

  /** A statement has written a table: one row of it, where its number is given, else any. */
  add(table: string, row: number | undefined): void {
    const known = this.rows.get(table);
    if (known === 'any') return;
    if (row === undefined || (known && known.size >= MOST_ROWS)) this.rows.set(table, 'any');
    else if (known) known.add(row);
    else this.rows.set(table, new Set([row]));
  }
  has(table: string): boolean {
    return this.rows.has(table);
  }
  get size(): number {
    return this.rows.size;
  }
  /** The SQL names of the tables. */
  tables(): string[] {
    return [...this.rows.keys()];
  }
  /** What was written, which is then forgotten. */
  take(): ReadonlyMap<string, RowsWritten> {
    const taken = new Map(this.rows);
    this.rows.clear();
    return taken;
  }
  clear(): void {
    this.rows.clear();
  }
}

/* Which tables a statement writes, told from its text: for noting what is no longer as it was read. */

const WRITES =
  /^\s*(?:insert(?:\s+or\s+\w+)?\s+into|replace\s+into|update|delete\s+from|alter\s+table|drop\s+table(?:\s+if\s+exists)?|create\s+table(?:\s+if\s+not\s+exists)?)\s+[`"]?(\w+)/i;
const RENAMES = /\brename\s+to\s+[`"]?(\w+)/i;
const OF_SCHEMA = /^\s*(?:alter|drop|create)\b/i;
/** Tables that grow with saves and of which nothing is kept. */
const NEVER_KEPT = new Set(['history', 'origins', 'requests', 'series', 'entry_counts', 'changes', 'impact_rows', 'backfill_rows']);
/** Tables of an import under way, which get their own name when it is done, and search indexes. */
const PASSING = /^(importing|fts)_/;

/** The SQL names of the tables that a statement writes, as far as anything is kept of them. */
export function tablesWritten(sql: string): string[] {
  const table = WRITES.exec(sql)?.[1];
  const other = table === undefined ? undefined : RENAMES.exec(sql)?.[1];
  return [table, other].filter((t) => t !== undefined && !NEVER_KEPT.has(t) && !PASSING.test(t)) as string[];
}
/** Whether a statement changes what tables, columns and indexes there are. */
export const isOfSchema = (sql: string): boolean => OF_SCHEMA.test(sql);
/** What is noted as written when it does. */
export const SCHEMA = 'sqlite_master';

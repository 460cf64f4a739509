import type { Database } from './connection';
import { dialectOf } from './dialect';
import { dataTable } from './names';

/** Fills a table by one statement, so that a million rows take seconds: each column is SQL over `i`, which counts from 1. */
export async function generateRows(db: Database, table: string, count: number, columns: Readonly<Record<string, string>>): Promise<void> {
  await db.raw(
    `INSERT INTO "${dataTable(table)}" (${Object.keys(columns).join(', ')})
     SELECT ${Object.values(columns).join(', ')}
     FROM (WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${count}) SELECT i FROM n) AS counted`,
  );
}

/** Lets the planner know how many rows an index key has; the limit keeps it quick and prepared statements prepared. */
export async function analyse(db: Database): Promise<void> {
  if (dialectOf(db).name === 'sqlite') await db.raw('PRAGMA analysis_limit = 1000');
  await db.raw('ANALYZE');
}

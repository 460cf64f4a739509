import type { Database } from '../database/connection';
import { dialectOf } from '../database/dialect';

/** How the database carries a statement out, as one text; a server is asked how it would if it did not find scanning a small table quicker. */
export async function planOf(db: Database, sql: string, bindings: readonly (string | number | null)[] = []): Promise<string> {
  if (dialectOf(db).name === 'sqlite') {
    const steps = (await db.raw(`EXPLAIN QUERY PLAN ${sql}`, [...bindings])) as { detail: string }[];
    return steps.map((s) => s.detail).join('\n');
  }
  return db.transaction(async (own) => {
    await own.raw('SET LOCAL enable_seqscan = off');
    await own.raw('SET LOCAL enable_sort = off');
    await own.raw('SET LOCAL enable_bitmapscan = off');
    const lines = (await own.raw(`EXPLAIN ${sql}`, [...bindings])) as Record<string, string>[];
    return lines.map((l) => Object.values(l)[0]).join('\n');
  });
}

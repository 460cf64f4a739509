import type { Database } from './connection';
import { execute, selected } from './statement';

/*
 * Series: numbers without gaps or doubles. A number is only looked at until a record is saved; the save takes it in its
 * own transaction, so that one that fails takes none.
 */

/** The number that is next in a series; a series begins at 1. Nothing is taken. */
export async function nextNumber(db: Database, series: string): Promise<number> {
  const [row] = await selected(db, 'SELECT next FROM series WHERE name = ?', [series]);
  return Number(row?.next ?? 1);
}

/** Takes a number that was looked at before; false when somebody else has taken it meanwhile. Call inside a transaction. */
export async function takeNumber(db: Database, series: string, number: number): Promise<boolean> {
  if ((await nextNumber(db, series)) !== number) return false;
  await execute(db, 'INSERT INTO series (name, next) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET next = excluded.next', [series, number + 1]); // prettier-ignore
  return true;
}

import type { Database } from './connection';

/*
 * Series: numbers without gaps or doubles. A number is only looked at until a record is saved; the save takes it in its
 * own transaction, so that one that fails takes none.
 */

/** The number that is next in a series; a series begins at 1. Nothing is taken. */
export async function nextNumber(db: Database, series: string): Promise<number> {
  const row = (await db('series').where({ name: series }).first('next')) as { next: number } | undefined;
  return row?.next ?? 1;
}

/** Takes a number that was looked at before; false when somebody else has taken it meanwhile. Call inside a transaction. */
export async function takeNumber(db: Database, series: string, number: number): Promise<boolean> {
  if ((await nextNumber(db, series)) !== number) return false;
  await db('series')
    .insert({ name: series, next: number + 1 })
    .onConflict('name')
    .merge();
  return true;
}

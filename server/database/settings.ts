import type { Database } from './connection';

/** A setting of the workspace, as JSON; undefined when it was never set. */
export async function setting(db: Database, key: string): Promise<unknown> {
  const row = (await db('workspace').where({ key }).first()) as { value: string } | undefined;
  return row ? (JSON.parse(row.value) as unknown) : undefined;
}
export const setSetting = async (db: Database, key: string, value: unknown): Promise<void> =>
  void (await db('workspace')
    .insert({ key, value: JSON.stringify(value) })
    .onConflict('key')
    .merge());

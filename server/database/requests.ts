import type { Database } from './connection';

/** A save that was answered. */
export interface RequestRow {
  readonly key: string;
  readonly account_id: number;
  /** empty in requests answered before this was kept */
  readonly form_key: string;
  readonly body: string;
  readonly answer: string;
  readonly at: string;
}

export async function requestByKey(db: Database, key: string): Promise<RequestRow | null> {
  return ((await db('requests').where({ key }).first()) as RequestRow | undefined) ?? null;
}
/** Forgets requests answered before a moment: nobody asks for them again. */
export const dropRequestsBefore = (db: Database, at: string) => db('requests').where('at', '<', at).delete();
export async function addRequest(db: Database, row: RequestRow): Promise<void> {
  await db('requests').insert(row);
}

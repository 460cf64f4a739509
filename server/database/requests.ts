import type { Database } from './connection';
import { execute, selected } from './statement';

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
  const [row] = await selected(db, 'SELECT * FROM requests WHERE key = ?', [key]);
  return (row as RequestRow | undefined) ?? null;
}
/** Forgets requests answered before a moment: nobody asks for them again. */
export const dropRequestsBefore = (db: Database, at: string) => db('requests').where('at', '<', at).delete();
export async function addRequest(db: Database, row: RequestRow): Promise<void> {
  const { key, account_id, form_key, body, answer, at } = row;
  await execute(db, 'INSERT INTO requests (key, account_id, form_key, body, answer, at) VALUES (?, ?, ?, ?, ?, ?)', [key, account_id, form_key, body, answer, at]); // prettier-ignore
}

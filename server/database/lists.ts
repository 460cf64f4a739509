import type { Database } from './connection';

/** An option list as it is kept: its items as JSON text. */
export interface ListRow {
  readonly key: string;
  readonly label: string;
  readonly items: string;
  readonly revision: number;
}
export interface ListStamp {
  readonly at: string;
  readonly account: number | null;
}

export const listRows = async (db: Database): Promise<ListRow[]> => (await db('option_lists').orderBy('label')) as ListRow[];
export const hasList = async (db: Database, key: string): Promise<boolean> =>
  (await db('option_lists').where({ key }).first('key')) !== undefined;

export async function insertList(db: Database, list: Omit<ListRow, 'revision'>, { at, account }: ListStamp): Promise<void> {
  await db('option_lists').insert({ ...list, changed_at: at, changed_by: account });
}
/** Writes a list that still has this revision; false when it has another. */
export async function updateList(db: Database, list: ListRow, { at, account }: ListStamp): Promise<boolean> {
  const { key, label, items, revision } = list;
  const change = { label, items, revision: revision + 1, changed_at: at, changed_by: account };
  return (await db('option_lists').where({ key, revision }).update(change)) === 1;
}
/** Whether there was such a list. */
export const deleteList = async (db: Database, key: string): Promise<boolean> => (await db('option_lists').where({ key }).delete()) > 0;

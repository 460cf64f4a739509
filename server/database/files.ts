import type { Database } from './connection';
import { dialectOf } from './dialect';
import type { ModelTable } from './model';
import { dataTable } from './names';
import { onlySeen } from './seen';

export interface FileRow {
  readonly id: number;
  readonly hash: string;
  readonly name: string;
  readonly kind: string;
  readonly size: number;
  readonly account_id: number | null;
}

export async function fileById(db: Database, id: number): Promise<FileRow | null> {
  return ((await db('files').where({ id }).first()) as FileRow | undefined) ?? null;
}

export async function addFile(db: Database, file: Omit<FileRow, 'id'> & { readonly at: string }): Promise<number> {
  const [id] = (await db('files').insert(file)) as number[];
  return id as number;
}

/** Whether an account sent a file, or any of these columns holds it. */
export async function heldFile(
  db: Database,
  id: number,
  account: number,
  places: readonly { readonly table: Pick<ModelTable, 'key' | 'seen'>; readonly column: string; readonly several: boolean }[],
): Promise<boolean> {
  const file = await fileById(db, id);
  if (!file) return false;
  if (file.account_id === account) return true;
  for (const { table, column } of places)
    if (
      await onlySeen(db(dataTable(table.key)), table)
        .where(column, id)
        .first('id')
    )
      return true;
  return false;
}

/** Files that were sent before a moment, in the order of their numbers: a page of those after one. */
export async function filesBefore(db: Database, at: string, after: number, limit: number): Promise<FileRow[]> {
  return (await db('files').where('at', '<', at).where('id', '>', after).orderBy('id').limit(limit)) as FileRow[];
}
/** Which of these files stand in a column. */
export async function heldIn(db: Database, table: string, column: string, several: boolean, ids: readonly number[]): Promise<number[]> {
  if (!several) {
    const rows = (await db(dataTable(table))
      .whereIn(column, [...ids])
      .distinct({ id: column })) as { id: number }[];
    return rows.map((r) => r.id);
  }
  const dialect = dialectOf(db);
  const sql = `SELECT DISTINCT j.value AS id FROM ?? AS t, ${dialect.idsOfEach('t.??', 'j')} WHERE t.?? IS NOT NULL AND j.value IN (${dialect.ids('?')})`;
  const rows = (await db.raw(sql, [dataTable(table), column, column, JSON.stringify(ids)])) as { id: number }[];
  return rows.map((r) => r.id);
}
export const dropFiles = (db: Database, ids: readonly number[]): Promise<number> =>
  db('files')
    .whereIn('id', [...ids])
    .delete();
/** Whether any file has this content. */
export const hasContent = async (db: Database, hash: string): Promise<boolean> => (await db('files').where({ hash }).first('id')) !== undefined; // prettier-ignore

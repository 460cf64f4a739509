import type { Database } from './connection';
import { dialectOf } from './dialect';
import type { ModelTable } from './model';
import { dataTable } from './names';
import { type Reading, readBy } from './reading';
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

/** Where a file may stand: a column of a table; `reading` is where that is gone through, for no index finds a file. */
export interface FilePlace {
  readonly table: Pick<ModelTable, 'key' | 'seen'>;
  readonly column: string;
  readonly several: boolean;
  readonly reading: Reading;
}
/** Whether an account sent a file, or any of these columns holds it. */
export async function heldFile(db: Database, id: number, account: number, places: readonly FilePlace[]): Promise<boolean> {
  const file = await fileById(db, id);
  if (!file) return false;
  if (file.account_id === account) return true;
  for (const { table, column, several, reading } of places) {
    const rows = onlySeen(db(dataTable(table.key)), table);
    if (several) void rows.whereRaw(dialectOf(db).holds('??', '?', false), [column, id]);
    else void rows.where(column, id);
    if ((await readBy(reading, rows.select('id').limit(1))).length) return true;
  }
  return false;
}

/** Files that were sent before a moment, in the order of their numbers: a page of those after one. */
export async function filesBefore(db: Database, at: string, after: number, limit: number): Promise<FileRow[]> {
  return (await db('files').where('at', '<', at).where('id', '>', after).orderBy('id').limit(limit)) as FileRow[];
}
/** Which of these files stand in a column. */
export async function heldIn(db: Database, { table, column, several, reading }: FilePlace, ids: readonly number[]): Promise<number[]> {
  if (!several) {
    const standing = db(dataTable(table.key))
      .whereIn(column, [...ids])
      .distinct({ id: column });
    return (await readBy<{ id: number }>(reading, standing)).map((r) => r.id);
  }
  const dialect = dialectOf(db);
  const sql = `SELECT DISTINCT j.value AS id FROM ?? AS t, ${dialect.idsOfEach('t.??', 'j')} WHERE t.?? IS NOT NULL AND j.value IN (${dialect.ids('?')})`;
  const standing = db.raw(sql, [dataTable(table.key), column, column, JSON.stringify(ids)]);
  return (await readBy<{ id: number }>(reading, standing)).map((r) => r.id);
}
export const dropFiles = (db: Database, ids: readonly number[]): Promise<number> =>
  db('files')
    .whereIn('id', [...ids])
    .delete();
/** Whether any file has this content. */
export const hasContent = async (db: Database, hash: string): Promise<boolean> => (await db('files').where({ hash }).first('id')) !== undefined; // prettier-ignore

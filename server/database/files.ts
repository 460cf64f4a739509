import type { Database } from './connection';
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
  places: readonly { readonly table: Pick<ModelTable, 'key' | 'seen'>; readonly column: string }[],
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

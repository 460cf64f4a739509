import type { Database } from './connection';

/** A rehearsal as it is kept: its definition as JSON text. */
export interface RehearsalRow {
  readonly id: number;
  readonly form_key: string;
  readonly label: string;
  readonly definition: string;
  readonly position: number;
  readonly changed_at: string;
  readonly changed_by: number | null;
}
interface Stamp {
  readonly at: string;
  readonly account: number | null;
}

export const rehearsalRows = async (db: Database, form: string): Promise<RehearsalRow[]> =>
  (await db('rehearsals').where({ form_key: form }).orderBy('position').orderBy('id')) as RehearsalRow[];

export async function insertRehearsal(
  db: Database,
  { form, label, definition }: { readonly form: string; readonly label: string; readonly definition: string },
  { at, account }: Stamp,
): Promise<number> {
  const [last] = (await db('rehearsals').where({ form_key: form }).max({ position: 'position' })) as { position: number | null }[];
  const row = { form_key: form, label, definition, position: (last?.position ?? 0) + 1, changed_at: at, changed_by: account };
  const [id] = (await db('rehearsals').insert(row)) as number[];
  return id as number;
}
/** Writes a rehearsal of a form; false when it has no such. */
export async function updateRehearsal(
  db: Database,
  { id, form, label, definition }: { readonly id: number; readonly form: string; readonly label: string; readonly definition: string },
  { at, account }: Stamp,
): Promise<boolean> {
  const change = { label, definition, changed_at: at, changed_by: account };
  return (await db('rehearsals').where({ id, form_key: form }).update(change)) === 1;
}
export const deleteRehearsal = async (db: Database, form: string, id: number): Promise<boolean> =>
  (await db('rehearsals').where({ id, form_key: form }).delete()) === 1;
/** Writes a rehearsal under other names of fields: what it means, and who wrote it, stay. */
export const rewriteRehearsal = async (db: Database, id: number, definition: string): Promise<void> =>
  void (await db('rehearsals').where({ id }).update({ definition }));

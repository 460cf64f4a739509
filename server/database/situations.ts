import type { Database } from './connection';

/** A situation as it is kept: its definition as JSON text. */
export interface SituationRow {
  readonly id: number;
  readonly label: string;
  readonly definition: string;
}
interface Owned {
  readonly form: string;
  readonly account: number;
}

export const situationRows = async (db: Database, { form, account }: Owned): Promise<SituationRow[]> =>
  (await db('situations').where({ form_key: form, account_id: account }).orderBy('label').orderBy('id')) as SituationRow[];

/** Writes a situation; one of the same name gives way to it. */
export async function putSituation(
  db: Database,
  { form, account }: Owned,
  { label, definition, at }: { readonly label: string; readonly definition: string; readonly at: string },
): Promise<number> {
  return db.transaction(async (t) => {
    await t('situations').where({ form_key: form, account_id: account, label }).delete();
    const [id] = (await t('situations').insert({
      form_key: form, account_id: account, label, definition, changed_at: at, changed_by: account,
    })) as number[]; // prettier-ignore
    return id as number;
  });
}
export const deleteSituation = async (db: Database, { form, account }: Owned, id: number): Promise<boolean> =>
  (await db('situations').where({ id, form_key: form, account_id: account }).delete()) === 1;
/** Everybody's of one form. */
export const situationsOfForm = async (db: Database, form: string): Promise<SituationRow[]> =>
  (await db('situations').where({ form_key: form }).orderBy('id')) as SituationRow[];
/** Writes a situation under other names of fields: what it means stays. */
export const rewriteSituation = async (db: Database, id: number, definition: string): Promise<void> =>
  void (await db('situations').where({ id }).update({ definition }));

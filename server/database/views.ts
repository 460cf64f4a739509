import type { Database } from './connection';

/** A view as it is kept: its definition as JSON text. */
export interface ViewRecord {
  readonly id: number;
  readonly form_key: string;
  readonly label: string;
  readonly definition: string;
  readonly account_id: number;
  readonly shared: number;
  readonly usual: number;
}
export interface ViewToKeep {
  readonly label: string;
  readonly definition: string;
  readonly shared: boolean;
  readonly usual: boolean;
  readonly at: string;
}
/** One person’s own views of a form, and those that are shared. */
export const viewRecords = async (db: Database, form: string, account: number): Promise<ViewRecord[]> =>
  (await db('views')
    .where({ form_key: form })
    .andWhere((w) => void w.where('shared', true).orWhere('account_id', account))
    .orderBy('label')
    .orderBy('id')) as ViewRecord[];
export const viewRecord = async (db: Database, form: string, id: number): Promise<ViewRecord | undefined> =>
  (await db('views').where({ form_key: form, id }).first()) as ViewRecord | undefined;
export const allViews = async (db: Database): Promise<ViewRecord[]> => (await db('views').orderBy('id')) as ViewRecord[];

const columns = ({ label, definition, shared, usual, at }: ViewToKeep) => ({ label, definition, shared, usual, changed_at: at });
/** Only one view is the usual one: to its owner, and of the shared ones to all. */
async function onlyUsual(db: Database, form: string, account: number, { shared, usual }: ViewToKeep): Promise<void> {
  if (!usual) return;
  const others = db('views').where({ form_key: form, usual: true, shared });
  await (shared ? others : others.where('account_id', account)).update({ usual: false });
}
/** Writes a view; one of the same name and person gives way to it. */
export const insertView = async (db: Database, form: string, account: number, view: ViewToKeep): Promise<number> =>
  db.transaction(async (t) => {
    await t('views').where({ form_key: form, account_id: account, label: view.label }).delete();
    await onlyUsual(t, form, account, view);
    const [id] = (await t('views').insert({ form_key: form, account_id: account, ...columns(view) })) as number[];
    return id as number;
  });
export const updateView = async (db: Database, kept: ViewRecord, view: ViewToKeep): Promise<void> =>
  db.transaction(async (t) => {
    await onlyUsual(t, kept.form_key, kept.account_id, view);
    await t('views').where({ id: kept.id }).update(columns(view));
  });
export const deleteView = async (db: Database, id: number): Promise<void> => void (await db('views').where({ id }).delete());
/** Writes a view under other names of columns: what it means stays. */
export const rewriteView = async (db: Database, id: number, definition: string): Promise<void> =>
  void (await db('views').where({ id }).update({ definition }));

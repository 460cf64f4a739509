import type { Database } from './connection';

/** How many definitions are read at once: others have their turn in between. */
const AT_ONCE = 20;

/** A form as it is kept: its draft as JSON text. */
export interface FormRow {
  readonly key: string;
  readonly label: string;
  readonly table_key: string;
  readonly draft: string;
  readonly draft_revision: number;
  readonly changed_at: string;
  /** who may what, as JSON */
  readonly rights: string;
}
/** A published version as it is kept; the definition as JSON text. */
export interface VersionRow {
  readonly form_key: string;
  readonly number: number;
  readonly definition: string;
  readonly published_at: string;
  readonly published_by: number | null;
  /** what somebody wrote of it */
  readonly note: string;
}
export interface FormStamp {
  readonly at: string;
  readonly account: number | null;
}

export const formRow = async (db: Database, key: string): Promise<FormRow | null> =>
  ((await db('forms').where({ key }).first()) as FormRow | undefined) ?? null;
/** All forms in the order they are shown. */
export const formRows = async (db: Database): Promise<FormRow[]> => (await db('forms').orderBy('position').orderBy('label')) as FormRow[];
export const formKeys = async (db: Database): Promise<string[]> =>
  ((await db('forms').orderBy('position').select('key')) as { key: string }[]).map((f) => f.key);

/** A new form behind those there are. */
export async function insertForm(
  db: Database,
  form: { readonly key: string; readonly label: string; readonly table: string; readonly draft: string },
  { at, account }: FormStamp,
): Promise<void> {
  const { key, label, table, draft } = form;
  const position = (await formKeys(db)).length;
  await db('forms').insert({ key, label, table_key: table, draft, changed_at: at, changed_by: account, position });
}

/** Writes a draft that still has this revision; false when it has another. */
export async function updateDraft(
  db: Database,
  key: string,
  revision: number,
  { label, draft }: { readonly label: string; readonly draft: string },
  { at, account }: FormStamp,
): Promise<boolean> {
  const change = { label, draft, draft_revision: revision + 1, changed_at: at, changed_by: account };
  return (await db('forms').where({ key, draft_revision: revision }).update(change)) === 1;
}

export const setFormRights = (db: Database, key: string, rights: string): Promise<number> => db('forms').where({ key }).update({ rights });

// ---- versions ----

export const newestVersion = async (db: Database, form: string): Promise<VersionRow | null> =>
  ((await db('form_versions').where({ form_key: form }).orderBy('number', 'desc').first()) as VersionRow | undefined) ?? null;
/** The newest version of every form that has one, by form. */
export async function newestVersions(db: Database): Promise<ReadonlyMap<string, VersionRow>> {
  const rows = (await db('form_versions as v').whereRaw(
    'number = (SELECT max(number) FROM form_versions WHERE form_key = v.form_key)',
  )) as VersionRow[];
  return new Map(rows.map((v) => [v.form_key, v]));
}
export const versionRow = async (db: Database, form: string, number: number): Promise<VersionRow | null> =>
  ((await db('form_versions').where({ form_key: form, number }).first()) as VersionRow | undefined) ?? null;
/** The version published next after a version; null when it is the newest. */
export const versionAfter = async (db: Database, form: string, number: number): Promise<VersionRow | null> =>
  ((await db('form_versions').where({ form_key: form }).where('number', '>', number).orderBy('number').first()) as
    VersionRow | undefined) ?? null;
/** Versions of a form, newest first. */
export async function* versionRows(db: Database, form: string, most: number): AsyncGenerator<VersionRow> {
  let [left, before] = [most, Infinity];
  while (left > 0) {
    const newer = db('form_versions').where({ form_key: form }).orderBy('number', 'desc');
    if (before < Infinity) void newer.where('number', '<', before);
    const page = (await newer.limit(Math.min(left, AT_ONCE))) as VersionRow[];
    yield* page;
    left = page.length < AT_ONCE ? 0 : left - page.length;
    before = page.at(-1)?.number ?? 0;
  }
}

export async function insertVersion(
  db: Database,
  version: { readonly form: string; readonly number: number; readonly definition: string; readonly note: string },
  { at, account }: FormStamp,
): Promise<void> {
  const { form, number, definition, note } = version;
  await db('form_versions').insert({ form_key: form, number, definition, note, published_at: at, published_by: account });
}

/** Every version of every form: what a rename goes through. */
export async function* allVersions(db: Database): AsyncGenerator<VersionRow> {
  let last: VersionRow | undefined;
  for (;;) {
    const next = db('form_versions').orderBy('form_key').orderBy('number').limit(AT_ONCE);
    if (last) {
      const { form_key, number } = last;
      void next.where((q) => q.where('form_key', '>', form_key).orWhere((same) => same.where({ form_key }).where('number', '>', number)));
    }
    const page = (await next) as VersionRow[];
    yield* page;
    if (page.length < AT_ONCE) return;
    last = page.at(-1);
  }
}
/** Writes a version's definition under other names of the model: what it means stays. */
export const rewriteVersion = async (db: Database, { form_key, number }: VersionRow, definition: string): Promise<void> =>
  void (await db('form_versions').where({ form_key, number }).update({ definition }));

/** Takes forms out with their versions and rehearsals: what was begun to be brought in and could not be. Call inside a transaction. */
export async function dropForms(db: Database, keys: readonly string[]): Promise<void> {
  for (const table of ['rehearsals', 'situations', 'form_versions']) await db(table).whereIn('form_key', keys).delete();
  await db('forms').whereIn('key', keys).delete();
}

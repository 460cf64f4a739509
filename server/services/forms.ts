import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Form } from '../../core/form/definition.ts';
import { formSchema, newForm } from '../../core/form/schemas.ts';
import { formOfTable } from '../../core/form/fromTable.ts';
import { RIGHTS } from '../../core/form/rights.ts';
import { formDifferences } from '../../core/review/differences.ts';
import { keyFromLabel } from '../../core/model/tables.ts';
import {
  type FormRow,
  type FormStamp,
  type VersionRow,
  formKeys,
  formRow,
  formRows,
  insertForm,
  newestVersion,
  newestVersions,
  setFormRights,
  updateDraft,
  versionAfter,
  versionRow,
  versionRows,
} from '../database/forms';
import { createTable } from '../database/model';
import type { Account } from '../database/accounts';
import { parsedJson, whyBroken } from './definitions';
import { Pace, othersFirst } from './pace';
import { Refused, notFound } from './errors';
import { MODEL_TABLES, type Workspace } from './workspace';

export type FormSummary = Answer<typeof contract.forms.list>[number];

export interface DraftForm {
  readonly draft: Form;
  readonly revision: number;
  readonly version: number | null;
  readonly published: Form | null;
}

/** A form as it is kept. Throws Refused when there is no such form. */
export async function formOf(ws: Workspace, key: string): Promise<FormRow> {
  const row = await formRow(ws.db, key);
  if (!row) throw notFound(`The form “${key}”`);
  return row;
}

/**
 * Reads a stored definition. They were valid when they were written; parsing fills in what later releases added. One that cannot be read
 * after all is refused with its reason, and takes no other with it.
 */
export function readForm(text: string): Form {
  const result = formSchema.safeParse(parsedJson(text));
  if (result.success) return result.data;
  throw new Refused(422, 'broken', whyBroken(result.error), {});
}

const draftIn = (ws: Workspace, { key, draft }: FormRow): Form => ws.readAgain(`draft of ${key}`, draft, readForm);
const versionIn = (ws: Workspace, { form_key, number, definition }: VersionRow): Form =>
  ws.readAgain(`version ${number} of ${form_key}`, definition, readForm);

/** What of a form is known without reading its definition. */
export const aboutForm = (row: FormRow, version: VersionRow | null) => ({
  key: row.key,
  label: row.label,
  table: row.table_key,
  version: version?.number ?? null,
  publishedAt: version?.published_at ?? null,
  changedAt: row.changed_at,
});

export async function formSummaries(ws: Workspace): Promise<FormSummary[]> {
  const versions = await newestVersions(ws.db);
  const found: FormSummary[] = [];
  const pace = new Pace();
  for (const row of await formRows(ws.db)) {
    const version = versions.get(row.key) ?? null;
    found.push({ ...aboutForm(row, version), ...(await stateOf(ws, row, version)), may: [...RIGHTS] });
    await pace.rest();
  }
  return found;
}
/** What a draft differs in from what is published, and what is wrong with it: worked out once for each. */
const stateOf = async (
  ws: Workspace,
  row: FormRow,
  version: VersionRow | null,
): Promise<Pick<FormSummary, 'changes' | 'problems' | 'broken'>> =>
  ws.kept.get(`state of ${row.key} ${row.draft_revision} ${version?.number} ${await ws.largeTables()}`, MODEL_TABLES, async () => {
    try {
      const draft = draftIn(ws, row);
      const plan = await ws.plan(`draft ${row.draft_revision}`, draft);
      const published = version && versionIn(ws, version);
      return { changes: published ? formDifferences(published, draft) : ['not published yet'], problems: counts(plan), broken: null };
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      return { changes: [], problems: { errors: 1, warnings: 0 }, broken: e.message };
    }
  });

/** The rules of the drafts of all forms; of forms that cannot be read, none. */
export const rulesOfForms = async (ws: Workspace): Promise<Answer<typeof contract.forms.rules>> =>
  (await definitionsInUse(ws)).flatMap(({ form, which }) =>
    which === 'draft' ? form.rules.map((rule) => ({ form: form.key, formLabel: form.label, rule })) : [],
  );

export const stampBy = (ws: Workspace, account: Account | null): FormStamp => ({ at: ws.clock.now(), account: account?.id ?? null });

const counts = (plan: Plan): FormSummary['problems'] => ({
  errors: plan.problems.filter((p) => p.severity === 'error').length,
  warnings: plan.problems.filter((p) => p.severity === 'warning').length,
});

export async function draftOf(ws: Workspace, key: string): Promise<DraftForm> {
  const row = await formOf(ws, key);
  const version = await newestVersion(ws.db, key);
  return {
    draft: readForm(row.draft),
    revision: row.draft_revision,
    version: version?.number ?? null,
    published: version ? readForm(version.definition) : null,
  };
}

/** Makes a form, with a table of its own when none is named; with `fields`, over one that is there, with a field for each column. */
export async function createForm(ws: Workspace, account: Account, label: string, table: string | null, fields = false): Promise<string> {
  const taken = await formKeys(ws.db);
  const key = keyFromLabel(label, taken);
  const tables = (await ws.modelTables()).map((t) => t.key);
  if (table !== null) await ws.modelTable(table);
  const own = table ?? keyFromLabel(label, tables);
  const form = fields && table !== null ? formOfTable(key, label, own, await ws.tables()) : newForm(key, label, own);
  await ws.db.transaction(async (db) => {
    if (table === null) await createTable(db, { key: own, label, shown: null, columns: [] });
    await insertForm(db, { key, label, table: own, draft: JSON.stringify(form) }, stampBy(ws, account));
  });
  ws.modelChanged();
  return key;
}

/** Puts a whole definition in as the draft of a new form: how form files come in. */
export async function addForm(ws: Workspace, account: Account | null, form: Form): Promise<void> {
  await ws.modelTable(form.table);
  await insertForm(ws.db, { ...form, draft: JSON.stringify(form) }, stampBy(ws, account));
}

/** Makes a form with the same draft and rights under another name, saving into the same table. Gives its key. */
export async function copyForm(ws: Workspace, account: Account, key: string, label: string): Promise<string> {
  const row = await formOf(ws, key);
  const own = keyFromLabel(label, await formKeys(ws.db));
  await addForm(ws, account, { ...readForm(row.draft), key: own, label });
  // whoever may not see the records by one form may not by its copy
  await setFormRights(ws.db, own, row.rights);
  return own;
}

/** Saves the draft if nobody saved it since `revision`; gives the new revision. */
export async function saveDraft(ws: Workspace, account: Account, key: string, form: Form, revision: number): Promise<number> {
  const row = await formOf(ws, key);
  if (form.key !== key || form.table !== row.table_key) throw new Refused(422, 'values', 'A form keeps its name and its table.', {});
  if (!(await updateDraft(ws.db, key, revision, { label: form.label, draft: JSON.stringify(form) }, stampBy(ws, account)))) {
    throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this form meanwhile.', {
      draft: readForm(row.draft),
      revision: row.draft_revision,
    });
  }
  return revision + 1;
}

/** A plan without mistakes. Throws Refused, with them, when it has some. */
export function soundPlan(plan: Plan): Plan {
  const errors = plan.problems.filter((p) => p.severity === 'error');
  if (errors.length)
    throw new Refused(
      422,
      'problems',
      `${errors.length === 1 ? 'One problem' : `${errors.length} problems`} must be fixed before publishing.`,
      { problems: errors },
    );
  if (!plan.fields.length) throw new Refused(422, 'problems', 'The form has no fields yet.', { problems: [] });
  return plan;
}
/** The draft of a form compiled, as far as it can be: what has mistakes is left out of it. */
export async function draftPlan(ws: Workspace, key: string): Promise<Plan> {
  const row = await formOf(ws, key);
  return ws.plan(`draft ${row.draft_revision}`, readForm(row.draft));
}
/** The draft of a form with its revision, compiled; as it could be published. Throws Refused when it has mistakes. */
export async function soundDraft(ws: Workspace, key: string): Promise<{ form: Form; revision: number; plan: Plan }> {
  const row = await formOf(ws, key);
  const form = readForm(row.draft);
  return { form, revision: row.draft_revision, plan: soundPlan(await ws.plan(`draft ${row.draft_revision}`, form)) };
}
/** The newest published version; null when there is none. */
export async function publishedOrNull(ws: Workspace, key: string): Promise<PublishedForm | null> {
  await formOf(ws, key);
  return (await newestVersion(ws.db, key)) ? publishedForm(ws, key) : null;
}

export interface PublishedForm {
  readonly form: Form;
  readonly version: number;
  readonly plan: Plan;
}

/** Every definition that somebody works with: the draft of each form and its newest published version. Those that cannot be read are left out. */
export const definitionsInUse = (ws: Workspace): Promise<readonly DefinitionInUse[]> =>
  ws.kept.get('definitions in use', ['forms', 'form_versions'], async () => {
    const found: DefinitionInUse[] = [];
    const pace = new Pace();
    const versions = await newestVersions(ws.db);
    for (const row of await formRows(ws.db)) {
      const version = versions.get(row.key);
      for (const read of [
        (): DefinitionInUse => ({ form: draftIn(ws, row), which: 'draft', name: `draft ${row.draft_revision}` }),
        ...(version
          ? [(): DefinitionInUse => ({ form: versionIn(ws, version), which: 'published', name: `version ${version.number}` })]
          : []),
      ]) {
        try {
          found.push(read());
        } catch (e) {
          if (!(e instanceof Refused)) throw e;
        }
        await pace.rest();
      }
    }
    return found;
  });
export interface DefinitionInUse {
  readonly form: Form;
  readonly which: 'draft' | 'published';
  /** what it is called where it is compiled (see `Workspace.plan`) */
  readonly name: string;
}

/** A published version (the newest when none is named), compiled. */
export async function publishedForm(ws: Workspace, key: string, version: number | null = null): Promise<PublishedForm> {
  const { form, number } = await ws.kept.get(`version ${version ?? 'newest'} of ${key}`, ['forms', 'form_versions'], async () => {
    await formOf(ws, key);
    const row = version === null ? await newestVersion(ws.db, key) : await versionRow(ws.db, key, version);
    if (!row)
      throw new Refused(
        404,
        'notPublished',
        version === null ? 'This form has not been published yet.' : `This form has no version ${version}.`,
        {},
      );
    return { form: versionIn(ws, row), number: row.number };
  });
  return { form, version: number, plan: await ws.plan(`version ${number}`, form) };
}

/** A published version as it was; null where there is none, or it can no longer be read. */
export async function versionOrNull(ws: Workspace, key: string, version: number): Promise<Form | null> {
  const row = await versionRow(ws.db, key, version);
  const result = row && formSchema.safeParse(parsedJson(row.definition));
  return result?.success ? result.data : null;
}

/** The newest published versions with what they were, newest first. */
export async function versionsWithForms(
  ws: Workspace,
  key: string,
  most: number,
): Promise<{ number: number; publishedAt: string; publishedBy: number | null; note: string; form: Form }[]> {
  await formOf(ws, key);
  const found: Awaited<ReturnType<typeof versionsWithForms>> = [];
  const pace = new Pace();
  // they are not kept as read: hundreds of them take much memory, and are seldom looked at
  for await (const { number, published_at: publishedAt, published_by: publishedBy, note, definition } of versionRows(ws.db, key, most)) {
    found.push({ number, publishedAt, publishedBy, note, form: readForm(definition) });
    await pace.rest();
  }
  return found;
}

/** The newest published version of every form that has one and can be read, compiled. */
export async function publishedPlans(ws: Workspace): Promise<PublishedForm[]> {
  const found: PublishedForm[] = [];
  const pace = new Pace();
  for (const key of await ws.kept.get('keys of forms', ['forms'], () => formKeys(ws.db))) {
    try {
      found.push(await publishedForm(ws, key));
    } catch (e) {
      // not published, or not to be read: another form's business
      if (!(e instanceof Refused)) throw e;
    }
    await pace.rest();
  }
  return found;
}

/** How many forms are read ahead: as many as are worked with on a day. */
const MOST_AHEAD = 30;
/**
 * Reads and compiles what is published before anybody asks for it, a form in each turn: whoever opens the first entry after a start need not
 * wait for that. What cannot be read is told to whoever opens it.
 */
export async function formsAhead(ws: Workspace): Promise<void> {
  for (const key of (await formKeys(ws.db)).slice(0, MOST_AHEAD)) {
    await othersFirst();
    try {
      await publishedForm(ws, key);
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
    }
  }
}

/** How long an entry may go on asking by the version it was opened with after another was published, in milliseconds. */
const SUPERSEDED = 24 * 3_600_000;

/** A version that an open entry goes by: the newest, or one that was the newest until lately. */
export async function versionInUse(ws: Workspace, key: string, version: number): Promise<PublishedForm> {
  const next = await versionAfter(ws.db, key, version);
  if (next && Date.parse(`${ws.clock.now()}Z`) - Date.parse(`${next.published_at}Z`) > SUPERSEDED)
    throw new Refused(409, 'superseded', 'This form was published anew meanwhile. Open it again.', { version: next.number });
  return publishedForm(ws, key, version);
}

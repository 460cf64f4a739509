import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { compileForm } from '../../core/engine/compile.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Form, formSchema, newForm } from '../../core/form/definition.ts';
import { missingColumns } from '../../core/form/columns.ts';
import { formDifferences } from '../../core/review/differences.ts';
import { type Column, keyFromLabel, targetOf } from '../../core/model/tables.ts';
import { addColumns, createTable, ensureIndex } from '../database/model';
import { ensureSearchIndex } from '../database/searchIndex';
import type { Account } from './accounts';
import { parsedJson, whyBroken } from './definitions';
import { Refused, notFound } from './errors';
import type { Workspace } from './workspace';

export type FormSummary = Answer<typeof contract.forms.list>[number];

interface FormRow {
  key: string;
  label: string;
  table_key: string;
  draft: string;
  draft_revision: number;
  changed_at: string;
}
interface VersionRow {
  form_key: string;
  number: number;
  definition: string;
  published_at: string;
  published_by: number | null;
}

export interface DraftForm {
  readonly draft: Form;
  readonly revision: number;
  readonly version: number | null;
  readonly published: Form | null;
}

async function formRow(ws: Workspace, key: string): Promise<FormRow> {
  const row = (await ws.db('forms').where({ key }).first()) as FormRow | undefined;
  if (!row) throw notFound(`The form “${key}”`);
  return row;
}

const newest = async (ws: Workspace, key: string): Promise<VersionRow | null> =>
  ((await ws.db('form_versions').where({ form_key: key }).orderBy('number', 'desc').first()) as VersionRow | undefined) ?? null;
/**
 * Stored definitions were valid when they were written; parsing fills in what later releases added. One that cannot be read
 * after all is refused with its reason, and takes no other with it.
 */
function read(text: string): Form {
  const result = formSchema.safeParse(parsedJson(text));
  if (result.success) return result.data;
  throw new Refused(422, 'broken', whyBroken(result.error), {});
}

const formRows = async (ws: Workspace): Promise<FormRow[]> => (await ws.db('forms').orderBy('position').orderBy('label')) as FormRow[];
/** What of a form is known without reading its definition. */
const aboutForm = (row: FormRow, version: VersionRow | null) => ({
  key: row.key,
  label: row.label,
  table: row.table_key,
  version: version?.number ?? null,
  publishedAt: version?.published_at ?? null,
  changedAt: row.changed_at,
});

export async function formSummaries(ws: Workspace): Promise<FormSummary[]> {
  return Promise.all(
    (await formRows(ws)).map(async (row) => {
      const version = await newest(ws, row.key);
      const about = aboutForm(row, version);
      try {
        const draft = read(row.draft);
        const plan = await ws.plan(`draft ${row.draft_revision}`, draft);
        const changes = version ? formDifferences(read(version.definition), draft) : ['not published yet'];
        return { ...about, changes, problems: counts(plan), broken: null };
      } catch (e) {
        if (!(e instanceof Refused)) throw e;
        return { ...about, changes: [], problems: { errors: 1, warnings: 0 }, broken: e.message };
      }
    }),
  );
}

/** The forms as those who only enter records see them: those that are published, and nothing of their drafts. */
export async function formsToEnter(ws: Workspace): Promise<FormSummary[]> {
  const found: FormSummary[] = [];
  for (const row of await formRows(ws)) {
    const version = await newest(ws, row.key);
    if (!version) continue;
    const about = aboutForm(row, version);
    found.push({ ...about, changes: [], problems: { errors: 0, warnings: 0 }, broken: null, changedAt: version.published_at });
  }
  return found;
}

const counts = (plan: Plan): FormSummary['problems'] => ({
  errors: plan.problems.filter((p) => p.severity === 'error').length,
  warnings: plan.problems.filter((p) => p.severity === 'warning').length,
});

export async function draftOf(ws: Workspace, key: string): Promise<DraftForm> {
  const row = await formRow(ws, key);
  const version = await newest(ws, key);
  return {
    draft: read(row.draft),
    revision: row.draft_revision,
    version: version?.number ?? null,
    published: version ? read(version.definition) : null,
  };
}

/** Makes a form, with a table of its own when none is named. */
export async function createForm(ws: Workspace, account: Account, label: string, table: string | null): Promise<string> {
  const taken = ((await ws.db('forms').select('key')) as { key: string }[]).map((f) => f.key);
  const key = keyFromLabel(label, taken);
  const tables = (await ws.modelTables()).map((t) => t.key);
  if (table !== null) await ws.modelTable(table);
  const own = table ?? keyFromLabel(label, tables);
  const form = newForm(key, label, own);
  await ws.db.transaction(async (db) => {
    if (table === null) await createTable(db, { key: own, label, shown: null, columns: [] });
    await db('forms').insert({
      key,
      label,
      table_key: own,
      draft: JSON.stringify(form),
      changed_at: ws.clock.now(),
      changed_by: account.id,
      position: taken.length,
    });
  });
  ws.modelChanged();
  return key;
}

/** Puts a whole definition in as the draft of a new form: how form files come in. */
export async function addForm(ws: Workspace, account: Account | null, form: Form): Promise<void> {
  await ws.modelTable(form.table);
  const [last] = (await ws.db('forms').count({ n: '*' })) as { n: number }[];
  await ws.db('forms').insert({
    key: form.key,
    label: form.label,
    table_key: form.table,
    draft: JSON.stringify(form),
    changed_at: ws.clock.now(),
    changed_by: account?.id ?? null,
    position: Number(last?.n ?? 0),
  });
}

/** Saves the draft if nobody saved it since `revision`; gives the new revision. */
export async function saveDraft(ws: Workspace, account: Account, key: string, form: Form, revision: number): Promise<number> {
  const row = await formRow(ws, key);
  if (form.key !== key || form.table !== row.table_key) throw new Refused(422, 'values', 'A form keeps its name and its table.', {});
  const changed = await ws
    .db('forms')
    .where({ key, draft_revision: revision })
    .update({
      draft: JSON.stringify(form),
      label: form.label,
      draft_revision: revision + 1,
      changed_at: ws.clock.now(),
      changed_by: account.id,
    });
  if (changed !== 1) {
    throw new Refused(409, 'changedMeanwhile', 'Somebody else changed this form meanwhile.', {
      draft: read(row.draft),
      revision: row.draft_revision,
    });
  }
  return revision + 1;
}

/**
 * Publishes the draft as a new, unchangeable version: makes the columns it needs and the indexes its narrowings read,
 * in one transaction. Refused while the draft has errors, or when it changed since the designer looked at it.
 */
export async function publish(ws: Workspace, account: Account | null, key: string, revision: number | null): Promise<number> {
  const row = await formRow(ws, key);
  if (revision !== null && row.draft_revision !== revision) {
    throw new Refused(409, 'changedMeanwhile', 'The form was changed meanwhile. Look at it again, then publish.', {
      revision: row.draft_revision,
    });
  }
  const draft = read(row.draft);
  const table = await ws.modelTable(draft.table);
  const columns = missingColumns(draft.fields, table.columns);
  const plan = compileForm(draft, await ws.tables(), await ws.lists(), await ws.feeds());
  const errors = plan.problems.filter((p) => p.severity === 'error');
  if (errors.length) {
    throw new Refused(
      422,
      'problems',
      `${errors.length === 1 ? 'One problem is' : `${errors.length} problems are`} in the way of publishing.`,
      { problems: errors },
    );
  }
  if (!plan.fields.length) throw new Refused(422, 'problems', 'The form has no fields yet.', { problems: [] });
  const last = await newest(ws, key);
  if (last && last.definition === row.draft) throw new Refused(422, 'nothingToPublish', 'Nothing has changed since the last version.', {});
  const number = (last?.number ?? 0) + 1;
  await ws.db.transaction(async (db) => {
    await addColumns(db, table, columns);
    for (const lines of Object.values(draft.lines)) {
      const child = await ws.modelTable(lines.table, db);
      await addColumns(db, child, missingColumns(lines.fields, child.columns));
    }
    if (!table.shown) {
      const first = [...table.columns, ...columns].find((c) => c.type === 'text') ?? [...table.columns, ...columns][0];
      if (first) await db('model_tables').where({ key: table.key }).update({ shown: first.key });
    }
    await db('form_versions').insert({
      form_key: key,
      number,
      definition: row.draft,
      published_at: ws.clock.now(),
      published_by: account?.id ?? null,
    });
    for (const index of indexesOf(plan)) await ensureIndex(db, index.table, index.columns);
    for (const searched of searchedTables(plan)) await ensureSearchIndex(db, await ws.modelTable(searched, db));
  });
  ws.modelChanged();
  return number;
}

/** What the narrowings equate, then what the list is sorted by: the first page then comes straight off the index. */
function indexesOf(plan: Plan): { table: string; columns: Column[] }[] {
  const indexes: { table: string; columns: Column[] }[] = [];
  for (const { choices } of plan.fields) {
    const table = choices?.table ? plan.tables.get(choices.table) : undefined;
    if (!choices || !table) continue;
    const equated: Column[] = [];
    for (const { syntax } of choices.narrowing?.parts ?? []) {
      if (syntax.kind !== 'binary' || syntax.operator !== '=') continue;
      for (const side of [syntax.left, syntax.right]) {
        if (side.kind !== 'member' || side.object.kind !== 'name' || side.object.name !== 'choice') continue;
        const column = table.columns.find((c) => c.key === side.property);
        if (column && targetOf(column) !== null) equated.push(column);
      }
    }
    const sorted = choices.sort.map((s) => table.columns.find((c) => c.key === s.key)).filter((c) => c !== undefined);
    const columns = [...new Set([...equated, ...sorted])];
    if (columns.length) indexes.push({ table: table.key, columns });
    // while it waits such a list offers all, in its order
    if (equated.length && sorted.length && choices.source.waiting === 'all')
      indexes.push({ table: table.key, columns: [...new Set(sorted)] });
  }
  return indexes;
}

/** Large tables that a list of the form searches. Small ones are searched in the browser. */
const searchedTables = (plan: Plan): Set<string> =>
  new Set(plan.fields.flatMap(({ choices }) => (choices?.large && choices.table && choices.search.length ? [choices.table] : [])));

export interface PublishedForm {
  readonly form: Form;
  readonly version: number;
  readonly plan: Plan;
}

/** Every definition that somebody works with: the draft of each form and its newest published version. Those that cannot be read are left out. */
export async function definitionsInUse(ws: Workspace): Promise<{ form: Form; which: 'draft' | 'published' }[]> {
  const rows = (await ws.db('forms').orderBy('position')) as FormRow[];
  const found: { form: Form; which: 'draft' | 'published' }[] = [];
  for (const row of rows) {
    const version = await newest(ws, row.key);
    for (const [which, text] of [
      ['draft', row.draft],
      ['published', version?.definition],
    ] as const) {
      const result = text === undefined ? null : formSchema.safeParse(parsedJson(text));
      if (result?.success) found.push({ form: result.data, which });
    }
  }
  return found;
}

/** A published version (the newest when none is named), compiled. */
export async function publishedForm(ws: Workspace, key: string, version: number | null = null): Promise<PublishedForm> {
  await formRow(ws, key);
  const row =
    version === null
      ? await newest(ws, key)
      : ((await ws.db('form_versions').where({ form_key: key, number: version }).first()) as VersionRow | undefined);
  if (!row)
    throw new Refused(
      404,
      'notPublished',
      version === null ? 'This form has not been published yet.' : `This form has no version ${version}.`,
      {},
    );
  const form = read(row.definition);
  return { form, version: row.number, plan: await ws.plan(`version ${row.number}`, form) };
}

/** The newest published versions with what they were, newest first. */
export async function versionsWithForms(
  ws: Workspace,
  key: string,
  most: number,
): Promise<{ number: number; publishedAt: string; publishedBy: number | null; form: Form }[]> {
  await formRow(ws, key);
  const rows = (await ws.db('form_versions').where({ form_key: key }).orderBy('number', 'desc').limit(most)) as VersionRow[];
  return rows.map((r) => ({ number: r.number, publishedAt: r.published_at, publishedBy: r.published_by, form: read(r.definition) }));
}

/** The newest published definition of every form that has one that can be read. */
export const publishedForms = async (ws: Workspace): Promise<Form[]> => (await publishedPlans(ws)).map((p) => p.form);

/** The newest published version of every form that has one and can be read, compiled. */
export async function publishedPlans(ws: Workspace): Promise<PublishedForm[]> {
  const keys = (await ws.db('forms').orderBy('position').select('key')) as { key: string }[];
  const found: PublishedForm[] = [];
  for (const { key } of keys) {
    try {
      found.push(await publishedForm(ws, key));
    } catch (e) {
      // not published, or not to be read: another form's business
      if (!(e instanceof Refused)) throw e;
    }
  }
  return found;
}

/** How long an entry may go on asking by the version it was opened with after another was published, in milliseconds. */
const SUPERSEDED = 24 * 3_600_000;

/** A version that an open entry goes by: the newest, or one that was the newest until lately. */
export async function versionInUse(ws: Workspace, key: string, version: number): Promise<PublishedForm> {
  const next = (await ws.db('form_versions').where({ form_key: key }).where('number', '>', version).orderBy('number').first()) as
    VersionRow | undefined;
  if (next && Date.parse(`${ws.clock.now()}Z`) - Date.parse(`${next.published_at}Z`) > SUPERSEDED)
    throw new Refused(409, 'superseded', 'This form was published anew meanwhile. Open it again.', { version: next.number });
  return publishedForm(ws, key, version);
}

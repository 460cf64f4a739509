import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { likelyKnown } from '../../core/form/known.ts';
import { compileForm } from '../../core/engine/compile.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { type Form, formSchema, newForm } from '../../core/form/definition.ts';
import { RIGHTS } from '../../core/form/rights.ts';
import { missingColumns } from '../../core/form/columns.ts';
import { formDifferences } from '../../core/review/differences.ts';
import { type Column, keyFromLabel, targetOf } from '../../core/model/tables.ts';
import {
  type FormRow,
  type FormStamp,
  type VersionRow,
  formKeys,
  formRow,
  formRows,
  insertForm,
  insertVersion,
  newestVersion,
  newestVersions,
  updateDraft,
  versionAfter,
  versionRow,
  versionRows,
} from '../database/forms';
import { addColumns, createTable, ensureIndex, ensureLastIndex, setTable } from '../database/model';
import { renameOrigins } from '../database/rename';
import type { Database } from '../database/connection';
import { ensureSearchIndex } from '../database/searchIndex';
import { setSetting, setting } from '../database/settings';
import type { Account } from '../database/accounts';
import { parsedJson, whyBroken } from './definitions';
import { Refused, notFound } from './errors';
import type { Workspace } from './workspace';

export type FormSummary = Answer<typeof contract.forms.list>[number];

export interface DraftForm {
  readonly draft: Form;
  readonly revision: number;
  readonly version: number | null;
  readonly published: Form | null;
}

async function formOf(ws: Workspace, key: string): Promise<FormRow> {
  const row = await formRow(ws.db, key);
  if (!row) throw notFound(`The form “${key}”`);
  return row;
}

/**
 * Stored definitions were valid when they were written; parsing fills in what later releases added. One that cannot be read
 * after all is refused with its reason, and takes no other with it.
 */
function read(text: string): Form {
  const result = formSchema.safeParse(parsedJson(text));
  if (result.success) return result.data;
  throw new Refused(422, 'broken', whyBroken(result.error), {});
}

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
  return Promise.all(
    (await formRows(ws.db)).map(async (row) => {
      const version = versions.get(row.key) ?? null;
      const about = aboutForm(row, version);
      try {
        const draft = read(row.draft);
        const plan = await ws.plan(`draft ${row.draft_revision}`, draft);
        const changes = version ? formDifferences(read(version.definition), draft) : ['not published yet'];
        return { ...about, changes, problems: counts(plan), broken: null, may: [...RIGHTS] };
      } catch (e) {
        if (!(e instanceof Refused)) throw e;
        return { ...about, changes: [], problems: { errors: 1, warnings: 0 }, broken: e.message, may: [...RIGHTS] };
      }
    }),
  );
}

/** The rules of the drafts of all forms; of forms that cannot be read, none. */
export async function rulesOfForms(ws: Workspace): Promise<Answer<typeof contract.forms.rules>> {
  return (await formRows(ws.db)).flatMap((row) => {
    try {
      const { key, label, rules } = read(row.draft);
      return rules.map((rule) => ({ form: key, formLabel: label, rule }));
    } catch (e) {
      if (!(e instanceof Refused)) throw e;
      return [];
    }
  });
}

const stampBy = (ws: Workspace, account: Account | null): FormStamp => ({ at: ws.clock.now(), account: account?.id ?? null });

const counts = (plan: Plan): FormSummary['problems'] => ({
  errors: plan.problems.filter((p) => p.severity === 'error').length,
  warnings: plan.problems.filter((p) => p.severity === 'warning').length,
});

export async function draftOf(ws: Workspace, key: string): Promise<DraftForm> {
  const row = await formOf(ws, key);
  const version = await newestVersion(ws.db, key);
  return {
    draft: read(row.draft),
    revision: row.draft_revision,
    version: version?.number ?? null,
    published: version ? read(version.definition) : null,
  };
}

/** Makes a form, with a table of its own when none is named. */
export async function createForm(ws: Workspace, account: Account, label: string, table: string | null): Promise<string> {
  const taken = await formKeys(ws.db);
  const key = keyFromLabel(label, taken);
  const tables = (await ws.modelTables()).map((t) => t.key);
  if (table !== null) await ws.modelTable(table);
  const own = table ?? keyFromLabel(label, tables);
  const form = newForm(key, label, own);
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

/** Saves the draft if nobody saved it since `revision`; gives the new revision. */
export async function saveDraft(ws: Workspace, account: Account, key: string, form: Form, revision: number): Promise<number> {
  const row = await formOf(ws, key);
  if (form.key !== key || form.table !== row.table_key) throw new Refused(422, 'values', 'A form keeps its name and its table.', {});
  if (!(await updateDraft(ws.db, key, revision, { label: form.label, draft: JSON.stringify(form) }, stampBy(ws, account)))) {
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
  const row = await formOf(ws, key);
  if (revision !== null && row.draft_revision !== revision) {
    throw new Refused(409, 'changedMeanwhile', 'The form was changed meanwhile. Look at it again, then publish.', {
      revision: row.draft_revision,
    });
  }
  const draft = read(row.draft);
  const table = await ws.modelTable(draft.table);
  const columns = missingColumns(draft.fields, table.columns);
  const plan = soundPlan(compileForm(draft, await ws.tables(), await ws.lists(), await ws.feeds()));
  const last = await newestVersion(ws.db, key);
  if (last && last.definition === row.draft) throw new Refused(422, 'nothingToPublish', 'Nothing has changed since the last version.', {});
  const number = (last?.number ?? 0) + 1;
  await ws.db.transaction(async (db) => {
    await addColumns(db, table, columns);
    for (const lines of Object.values(draft.lines)) {
      const child = await ws.modelTable(lines.table, db);
      await addColumns(db, child, missingColumns(lines.fields, child.columns));
    }
    const there = new Set([...table.columns, ...columns].map((c) => c.key));
    const known = draft.known ?? table.shown ?? likelyKnown(draft) ?? table.columns[0]?.key ?? null;
    if (known !== null && known !== table.shown && there.has(known)) await setTable(db, table.key, { shown: known });
    await insertVersion(db, { form: key, number, definition: row.draft }, stampBy(ws, account));
    if (last) await renameOriginsOf(db, read(last.definition), draft);
    await ensureIndexes(ws, db, plan);
  });
  ws.modelChanged();
  return number;
}

/** A plan without mistakes. Throws Refused, with them, when it has some. */
function soundPlan(plan: Plan): Plan {
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
/** The draft of a form with its revision, compiled; as it could be published. Throws Refused when it has mistakes. */
export async function soundDraft(ws: Workspace, key: string): Promise<{ form: Form; revision: number; plan: Plan }> {
  const row = await formOf(ws, key);
  const form = read(row.draft);
  return { form, revision: row.draft_revision, plan: soundPlan(await ws.plan(`draft ${row.draft_revision}`, form)) };
}
/** The newest published version; null when there is none. */
export async function publishedOrNull(ws: Workspace, key: string): Promise<PublishedForm | null> {
  await formOf(ws, key);
  return (await newestVersion(ws.db, key)) ? publishedForm(ws, key) : null;
}

/** Fields that save into the same column as before under another name: where their values came from is noted under the new one. */
async function renameOriginsOf(db: Database, before: Form, now: Form): Promise<void> {
  const paths = (form: Form): Map<string, string> => {
    const found = new Map<string, string>();
    const note = (prefix: string, at: string, fields: Form['fields']): void => {
      for (const [key, f] of Object.entries(fields)) if (f.column) found.set(`${at} ${f.column}`, `${prefix}${key}`);
    };
    note('', '', form.fields);
    for (const [key, lines] of Object.entries(form.lines)) note(`${key}.`, lines.table, lines.fields);
    return found;
  };
  const [old, fresh] = [paths(before), paths(now)];
  const kept = new Set(fresh.values());
  const names = new Map<string, string>();
  for (const [column, path] of old) {
    const to = fresh.get(column);
    if (to !== undefined && to !== path && !kept.has(path)) names.set(path, to);
  }
  await renameOrigins(db, now.table, now.key, names);
}

/** Makes sure of the indexes that the lists of a form, and what it asks of earlier records, are read by. */
async function ensureIndexes(ws: Workspace, db: Database, plan: Plan): Promise<void> {
  for (const index of indexesOf(plan)) await ensureIndex(db, index.table, index.columns);
  for (const { table, column } of lastAsked(plan)) await ensureLastIndex(db, table, column);
  for (const searched of searchedTables(plan)) await ensureSearchIndex(db, await ws.modelTable(searched, db));
}
/** Makes sure of the indexes of every form that is published. Cost: compiling each, and one pass over a table for an index it lacks. */
export async function ensureAllIndexes(ws: Workspace): Promise<void> {
  for (const { plan } of await publishedPlans(ws)) await ws.db.transaction((db) => ensureIndexes(ws, db, plan));
}
/** Goes up whenever forms are given indexes they were not given before. */
const INDEX_RULES = 1;
/** Makes sure of them once after the application has changed: what was published by a version before knew fewer. */
export async function ensureNewIndexes(ws: Workspace): Promise<void> {
  if ((await setting(ws.db, 'index_rules')) === INDEX_RULES) return;
  await ensureAllIndexes(ws);
  await setSetting(ws.db, 'index_rules', INDEX_RULES);
}

/** The records that somebody saved last, as a form asks for them: of which table, with which column. */
function lastAsked(plan: Plan): { table: string; column: string | null }[] {
  const asked = new Map<string, { table: string; column: string | null }>();
  const note = (table: string, column: string | null): void => void asked.set(`${table} ${column}`, { table, column });
  for (const { formula } of plan.written) {
    for (const extra of formula.extras.values()) if (extra.kind === 'last') note(plan.form.table, extra.column);
    for (const binding of formula.bindings.values()) if (binding.source.kind === 'last') note(plan.form.table, null);
  }
  for (const { definition, group } of plan.fields)
    if (definition.source?.kind === 'rows' && definition.source.first === 'recent')
      note(group === null ? plan.form.table : (plan.lines[group]?.definition.table ?? plan.form.table), null);
  return [...asked.values()];
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
  const found: { form: Form; which: 'draft' | 'published' }[] = [];
  const versions = await newestVersions(ws.db);
  for (const row of await formRows(ws.db)) {
    const version = versions.get(row.key);
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
  await formOf(ws, key);
  const row = version === null ? await newestVersion(ws.db, key) : await versionRow(ws.db, key, version);
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
  await formOf(ws, key);
  const rows = await versionRows(ws.db, key, most);
  return rows.map((r) => ({ number: r.number, publishedAt: r.published_at, publishedBy: r.published_by, form: read(r.definition) }));
}

/** The newest published version of every form that has one and can be read, compiled. */
export async function publishedPlans(ws: Workspace): Promise<PublishedForm[]> {
  const found: PublishedForm[] = [];
  for (const key of await formKeys(ws.db)) {
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
  const next = await versionAfter(ws.db, key, version);
  if (next && Date.parse(`${ws.clock.now()}Z`) - Date.parse(`${next.published_at}Z`) > SUPERSEDED)
    throw new Refused(409, 'superseded', 'This form was published anew meanwhile. Open it again.', { version: next.number });
  return publishedForm(ws, key, version);
}

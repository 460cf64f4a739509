import { listIndexes } from '../../core/engine/looked.ts';
import type { Plan } from '../../core/engine/plan.ts';
import { missingColumns } from '../../core/form/columns.ts';
import type { Form } from '../../core/form/definition.ts';
import { followEdits, followSteps } from '../../core/form/follow.ts';
import { situationSchema } from '../../core/contract/situations.ts';
import { rehearsalSchema } from '../../core/form/rehearsalSchemas.ts';
import { likelyKnown } from '../../core/form/known.ts';
import type { Account } from '../database/accounts';
import type { Database } from '../database/connection';
import { type FormRow, type VersionRow, insertVersion, newestVersion, updateDraft, versionRow } from '../database/forms';
import { addColumns, ensureIndex, ensureLastIndex, setTable } from '../database/model';
import { rehearsalRows, rewriteRehearsal } from '../database/rehearsals';
import { rewriteSituation, situationsOfForm } from '../database/situations';
import { renameOrigins } from '../database/rename';
import { ensureSearchIndex, fillSearchIndex, unfilledIndexes } from '../database/searchIndex';
import { setSetting, setting } from '../database/settings';
import { parsedJson } from './definitions';
import { Refused } from './errors';
import { formOf, publishedPlans, readForm, soundPlan, stampBy } from './forms';
import { Pace } from './pace';
import type { Workspace } from './workspace';

/* Publishing: a draft, or a version from before, becomes the newest version, with the columns and indexes it needs. */

/**
 * Publishes the draft as a new, unchangeable version: makes the columns it needs and the indexes its narrowings read,
 * in one transaction. Refused while the draft has errors, or when it changed since the designer looked at it.
 */
export async function publish(ws: Workspace, account: Account | null, key: string, revision: number | null, note = ''): Promise<number> {
  const row = await formOf(ws, key);
  if (revision !== null && row.draft_revision !== revision) {
    throw new Refused(409, 'changedMeanwhile', 'The form was changed meanwhile. Look at it again, then publish.', {
      revision: row.draft_revision,
    });
  }
  const last = await newestVersion(ws.db, key);
  if (last && last.definition === row.draft) throw new Refused(422, 'nothingToPublish', 'Nothing has changed since the last version.', {});
  return published(ws, account, row, row.draft, last, note);
}

/**
 * Publishes a version from before as the newest: what it was then, it is again. A draft that holds nothing unpublished becomes it too;
 * one that does stays. Gives the new version, and whether the draft stayed. Throws Refused when that version no longer fits the tables.
 */
export async function goBack(
  ws: Workspace,
  account: Account,
  key: string,
  number: number,
): Promise<{ version: number; draftStays: boolean }> {
  const row = await formOf(ws, key);
  const back = await versionRow(ws.db, key, number);
  const last = await newestVersion(ws.db, key);
  if (!back || !last) throw new Refused(404, 'notPublished', `This form has no version ${number}.`, {});
  if (back.definition === last.definition) throw new Refused(422, 'nothingToPublish', `Version ${number} is what is published now.`, {});
  const version = await published(ws, account, row, back.definition, last, `Back to version ${number}.`);
  const draftStays = row.draft !== last.definition;
  if (!draftStays) {
    const { label } = readForm(back.definition);
    await updateDraft(ws.db, key, row.draft_revision, { label, draft: back.definition }, stampBy(ws, account));
  }
  return { version, draftStays };
}

/** Makes a definition the newest version of its form, tells those who have it open, and sees that its lists are soon found by indexes. */
async function published(
  ws: Workspace,
  account: Account | null,
  { key }: Pick<FormRow, 'key'>,
  definition: string,
  last: VersionRow | null,
  note: string,
): Promise<number> {
  const given = { key, definition, last, note, stamp: stampBy(ws, account) };
  const version = await ws.reshape(tablesOf(readForm(definition)), 'publishDefinition', [given], () => publishDefinition(ws, given));
  ws.modelChanged();
  ws.told({ kind: 'published', form: key, version });
  await fillSearchIndexes(ws);
  return version;
}

/** The tables that a form saves into, and those that its lists go through. */
function tablesOf(form: Form): string[] {
  const groups = [form, ...Object.values(form.lines)];
  const sources = groups.flatMap((g) => Object.values(g.fields).flatMap((f) => f.source ?? []));
  return [...groups.map((g) => g.table), ...sources.flatMap((s) => ('table' in s ? s.table : []))];
}

export interface ToPublish {
  readonly key: string;
  readonly definition: string;
  readonly last: VersionRow | null;
  readonly note: string;
  readonly stamp: ReturnType<typeof stampBy>;
}
/** Makes a definition the newest version of its form, in one transaction; gives its number. */
export async function publishDefinition(ws: Workspace, { key, definition, last, note, stamp }: ToPublish): Promise<number> {
  const draft = readForm(definition);
  const table = await ws.modelTable(draft.table);
  const columns = missingColumns(draft.fields, table.columns);
  const plan = soundPlan(await ws.compiled(draft));
  const number = (last?.number ?? 0) + 1;
  await ws.db.transaction(async (db) => {
    // somebody else was quicker
    if (((await newestVersion(db, key))?.number ?? 0) !== number - 1)
      throw new Refused(409, 'changedMeanwhile', 'The form was published meanwhile. Look at it again, then publish.', {});
    await addColumns(db, table, columns);
    for (const lines of Object.values(draft.lines)) {
      const child = await ws.modelTable(lines.table, db);
      await addColumns(db, child, missingColumns(lines.fields, child.columns));
    }
    const there = new Set([...table.columns, ...columns].map((c) => c.key));
    const known = draft.known ?? table.shown ?? likelyKnown(draft) ?? table.columns[0]?.key ?? null;
    if (known !== null && known !== table.shown && there.has(known)) await setTable(db, table.key, { shown: known });
    await insertVersion(db, { form: key, number, definition, note }, stamp);
    if (last) {
      await renameOriginsOf(db, readForm(last.definition), draft);
      await followRehearsals(db, key, readForm(last.definition), draft);
      await followSituations(db, key, readForm(last.definition), draft);
    }
    await ensureIndexes(ws, db, plan);
  });
  return number;
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

/** Rehearsals call fields as the newest version does. */
async function followRehearsals(db: Database, key: string, before: Form, now: Form): Promise<void> {
  for (const row of await rehearsalRows(db, key)) {
    const read = rehearsalSchema.safeParse(parsedJson(row.definition));
    if (!read.success) continue;
    const definition = JSON.stringify({ ...read.data, steps: followSteps(read.data.steps, before, now) });
    if (definition !== row.definition) await rewriteRehearsal(db, row.id, definition);
  }
}

/** So do situations in which it is tried. */
async function followSituations(db: Database, key: string, before: Form, now: Form): Promise<void> {
  for (const row of await situationsOfForm(db, key)) {
    const read = situationSchema.safeParse(parsedJson(row.definition));
    if (!read.success) continue;
    const definition = JSON.stringify({ ...read.data, edits: followEdits(read.data.edits, before, now).edits });
    if (definition !== row.definition) await rewriteSituation(db, row.id, definition);
  }
}

/** Makes sure of the indexes that the lists of a form, and what it asks of earlier records, are read by. */
async function ensureIndexes(ws: Workspace, db: Database, plan: Plan): Promise<void> {
  for (const index of listIndexes(plan)) await ensureIndex(db, index.table, index.columns);
  // how many stand at each step is told on the first screen
  const step = plan.steps && plan.fields[plan.steps.slot]?.column;
  if (step) await ensureIndex(db, plan.form.table, [step]);
  for (const { table, column } of lastAsked(plan)) await ensureLastIndex(db, table, column);
  for (const searched of searchedTables(plan)) await ensureSearchIndex(db, await ws.modelTable(searched, db));
}
/** Makes sure of the indexes of every form that is published. Cost: compiling each, and one pass over a table for an index it lacks. */
export async function ensureAllIndexes(ws: Workspace): Promise<void> {
  const tables = (await ws.modelTables()).map((t) => t.key);
  await ws.reshape(tables, 'ensureAllIndexes', [], async () => {
    const pace = new Pace();
    for (const { plan } of await publishedPlans(ws)) {
      await ws.db.transaction((db) => ensureIndexes(ws, db, plan));
      await pace.rest();
    }
    await fillSearchIndexes(ws);
  });
}
/** Goes on with search indexes of long tables until they are whole, piece by piece: others write in between. */
export async function fillSearchIndexes(ws: Workspace): Promise<void> {
  const unfilled = await unfilledIndexes(ws.db);
  if (!unfilled.length) return;
  await ws.reshape(unfilled, 'fillSearchIndexes', [], async () => {
    const pace = new Pace();
    for (const table of unfilled) while (!(await ws.db.transaction((db) => fillSearchIndex(db, table)))) await pace.rest();
  });
}
/** Goes up whenever forms are given indexes they were not given before. */
const INDEX_RULES = 2;
/** Makes sure of them once after the application has changed: what was published by a version before knew fewer. */
export async function ensureNewIndexes(ws: Workspace): Promise<void> {
  // one that a server which ended was at
  if ((await setting(ws.db, 'index_rules')) === INDEX_RULES) return fillSearchIndexes(ws);
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

/** Large tables that a list of the form searches. Small ones are searched in the browser. */
const searchedTables = (plan: Plan): Set<string> =>
  new Set(plan.fields.flatMap(({ choices }) => (choices?.large && choices.table && choices.search.length ? [choices.table] : [])));

import { compileFormInSteps } from '../../core/engine/compile.ts';
import { atOnce } from '../../core/engine/inSteps.ts';
import { type ModelRenaming, subsetsRenamed, withModelRenamed } from '../../core/engine/rename.ts';
import { type Form } from '../../core/form/definition.ts';
import { formSchema } from '../../core/form/schemas.ts';
import { withColumns } from '../../core/choices/views.ts';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import { type Column, type Tables, columnOf, keyProblem } from '../../core/model/tables.ts';
import { PEOPLE } from '../../core/values/kinds/index.ts';
import type { Database } from '../database/connection';
import { allVersions, formRows, rewriteVersion, updateDraft } from '../database/forms';
import { type ModelTable, writeSubsets } from '../database/model';
import { renameColumnSql, renameTableSql } from '../database/rename';
import { allViews, rewriteView } from '../database/views';
import type { Account } from '../database/accounts';
import { parsedJson } from './definitions';
import { Refused } from './errors';
import { Pace } from './pace';
import { ensureAllIndexes } from './publishing';
import type { Workspace } from './workspace';

/*
 * Another name for a table or a column, everywhere: in SQL, in the subsets, in the draft and in every version of every form, with
 * all their formulas. What forms do stays the same; so do versions, which only call a thing by its new name.
 */

/** Columns that the application itself reads by their names. */
const PEOPLE_COLUMNS = ['name', 'email', 'team'];

/** Gives a column another name. Refused when it cannot be had. Gives how many forms name it. */
export const renameColumn = (ws: Workspace, account: Account, table: string, from: string, to: string): Promise<number> =>
  ws.reshape([table], 'renameColumn', [account, table, from, to], () => columnRenamed(ws, account, table, from, to));
async function columnRenamed(ws: Workspace, account: Account, table: string, from: string, to: string): Promise<number> {
  const model = await ws.modelTable(table);
  const column = columnNamed(model, from);
  if (from === to) return 0;
  refuseName(to, model.columns.some((c) => c.key === to) ? `${model.label} has a column “${to}” already.` : null);
  if (table === PEOPLE && PEOPLE_COLUMNS.includes(from))
    throw new Refused(409, 'inUse', `People are known by ${PEOPLE_COLUMNS.join(', ')}: these names stay.`, {});
  return renamed(ws, account, { kind: 'column', table, from, to }, (db) => renameColumnSql(db, table, column, to));
}

/** Gives a table another name. Refused when it cannot be had. Gives how many forms name it. */
export const renameTable = (ws: Workspace, account: Account, from: string, to: string): Promise<number> =>
  ws.reshape([from], 'renameTable', [account, from, to], () => tableRenamed(ws, account, from, to));
async function tableRenamed(ws: Workspace, account: Account, from: string, to: string): Promise<number> {
  const model = await ws.modelTable(from);
  if (from === to) return 0;
  if (from === PEOPLE) throw new Refused(409, 'inUse', `The table ${model.label} is where those stand who sign in: its name stays.`, {});
  refuseName(to, (await ws.modelTables()).some((t) => t.key === to) ? `There is a table “${to}” already.` : null);
  return renamed(ws, account, { kind: 'table', from, to }, (db) => renameTableSql(db, from, to));
}

function columnNamed(table: ModelTable, key: string): Column {
  const column = columnOf({ ...table, rows: 0, large: false }, key);
  if (!column) throw new Refused(404, 'notFound', `${table.label} has no column “${key}”.`, {});
  return column;
}
function refuseName(to: string, taken: string | null): void {
  const problem = keyProblem(to) ?? taken;
  if (problem !== null) throw new Refused(422, 'values', problem, {});
}

/** Whether a text may name what is renamed, a key: formulas find tables whatever the case of letters, and write no letter otherwise. */
const mayName = (text: string, { from }: ModelRenaming): boolean => new RegExp(from, 'iu').test(text);

/** Views follow: what they show, and what they ask, is called by the new name. */
async function renameInViews(db: Database, tables: Tables, change: ModelRenaming, pace: Pace): Promise<void> {
  const forms = new Map((await formRows(db)).map((f) => [f.key, f.table_key]));
  for (const kept of await allViews(db)) {
    if (!mayName(kept.definition, change)) continue;
    await pace.rest();
    const { data: view } = viewSchema.safeParse(parsedJson(kept.definition));
    const key = forms.get(kept.form_key);
    const table = tables.get(key ?? '');
    if (!view || !table) continue;
    // conditions over rows are what subsets are, too
    const conditions = [view.where, ...view.colours.map((c) => c.where)].map((c, i) => ({ key: `c${i}`, label: '', condition: c ?? '' }));
    const [where, ...colours] = subsetsRenamed({ key: table.key, subsets: conditions }, tables, change).map((s) => s.condition);
    const followed = withColumns(
      {
        ...view,
        where: view.where === null ? null : (where ?? null),
        colours: view.colours.map((c, i) => ({ ...c, where: colours[i] ?? c.where })),
      },
      (k) => (change.kind === 'column' && change.table === table.key && k === change.from ? change.to : k),
    );
    const definition = JSON.stringify(followed);
    if (definition !== kept.definition) await rewriteView(db, kept.id, definition);
  }
}

async function renamed(ws: Workspace, account: Account, change: ModelRenaming, inSql: (db: Database) => Promise<void>): Promise<number> {
  const [tables, lists, feeds] = [await ws.tables(), await ws.lists(), await ws.feeds()];
  const known = new Map<string, Form | null>();
  /** A definition under the new name; null where it names it nowhere, or cannot be read. */
  function* rewriting(text: string): Generator<void, Form | null> {
    let fresh = mayName(text, change) ? known.get(text) : null;
    if (fresh !== undefined) return fresh;
    const { data: form } = formSchema.safeParse(parsedJson(text));
    yield;
    fresh = form ? withModelRenamed(yield* compileFormInSteps(form, tables, lists, feeds), change) : null;
    if (fresh && JSON.stringify(fresh) === JSON.stringify(form)) fresh = null;
    known.set(text, fresh);
    return fresh;
  }
  // the database has one connection: what can be made before the transaction keeps nobody waiting
  const pace = new Pace();
  for (const { draft } of await formRows(ws.db)) {
    await pace.through(rewriting(draft));
    await pace.rest();
  }
  for await (const { definition } of allVersions(ws.db)) {
    await pace.through(rewriting(definition));
    await pace.rest();
  }
  const rewritten = (text: string): Form | null => atOnce(rewriting(text));
  const touched = new Set<string>();
  await ws.db.transaction(async (db) => {
    for (const row of await formRows(db)) {
      // who reads does so beside the transaction
      await pace.rest();
      const draft = rewritten(row.draft);
      if (!draft) continue;
      touched.add(row.key);
      const stamp = { at: ws.clock.now(), account: account.id };
      await updateDraft(db, row.key, row.draft_revision, { label: draft.label, draft: JSON.stringify(draft) }, stamp);
    }
    for await (const version of allVersions(db)) {
      await pace.rest();
      const definition = rewritten(version.definition);
      if (!definition) continue;
      touched.add(version.form_key);
      await rewriteVersion(db, version, JSON.stringify(definition));
    }
    for (const table of tables.values()) {
      if (!table.subsets?.some((s) => mayName(s.condition, change))) continue;
      const subsets = subsetsRenamed(table, tables, change);
      if (subsets.some((s, i) => s.condition !== table.subsets?.[i]?.condition)) await writeSubsets(db, table.key, subsets);
    }
    await renameInViews(db, tables, change, pace);
    await inSql(db);
  });
  ws.modelChanged();
  // the search index was taken down with the old names
  await ensureAllIndexes(ws);
  return touched.size;
}

import { MOST_VIEW_TEXT, PLAIN_VIEW, type View, columnsNamed, viewCondition } from '../../core/choices/views.ts';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import type { Archive } from '../../core/contract/archive.ts';
import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { MOST_VIEWS } from '../../core/contract/views.ts';
import { targetOf } from '../../core/model/tables.ts';
import { type Account, accountNames } from '../database/accounts';
import { ensureIndex } from '../database/model';
import { type ViewQuery, spanOf, viewDays, viewGroups, viewPage, viewTotals } from '../database/viewRows';
import { type ViewRecord, type ViewToKeep, allViews, deleteView, insertView, updateView, viewRecord, viewRecords } from '../database/views';
import { valuesOfColumn } from './columnValues';
import { parsedJson } from './definitions';
import { Refused, notFound } from './errors';
import { tableFor } from './owners';
import { maySeeAll } from './rights';
import { linkedTexts, readingOf } from './tables';
import { type Viewed, scopeOf, viewQuery, viewed } from './viewQuery';
import type { Workspace } from './workspace';

/* The records of a form as a view shows them, and the views that are kept. */

export type RecordsPage = Answer<typeof contract.entries.list>;
export type Views = Answer<typeof contract.views.list>;
export type Days = Answer<typeof contract.views.days>;
/** More groups than a person would look through are not told apart. */
const MOST_GROUPS = 500;
/** The most records a calendar draws at once; beyond that, it counts them. */
const MOST_ON_DAYS = 1000;

interface PageAsked {
  readonly view?: View;
  readonly search: string;
  readonly sort: string | null;
  readonly descending: boolean;
  readonly offset: number;
  readonly limit: number;
  readonly whole?: boolean;
}
/** A page of a form's records as a view shows them, with what their links show; with `whole`, what is told of all of them. */
export async function listRecords(ws: Workspace, account: Account, formKey: string, asked: PageAsked): Promise<RecordsPage> {
  const v = await viewed(ws, account, formKey);
  const { view: base = PLAIN_VIEW, sort } = asked;
  const view = sort === null ? base : { ...base, sort: [{ column: sort, descending: asked.descending }] };
  const { query, sums } = await viewQuery(ws, account, v, view, asked.search, asked.descending && !view.sort.length);
  const db = await readingOf(ws, v.table);
  const rows = await viewPage(db, query, asked.offset, asked.limit);
  const { total, ...told } = await viewTotals(db, query, asked.whole ? sums : []);
  const whole = asked.whole ? { ...told, groups: await viewGroups(db, query, sums, MOST_GROUPS) } : null;
  const groups = (whole?.groups ?? []).map((g) => ({ id: 0, ...(view.group ? { [view.group.column]: g.value } : {}) }));
  const linked = await linkedTexts(
    ws,
    v.table.columns,
    [...rows.map((r) => r.row), ...(view.group?.by === 'value' ? groups : [])],
    account,
  );
  return { form: v.form, version: v.version, columns: [...v.table.columns], rows, total, whole, linked };
}

/** The records of a view that stand on the days of a span. */
export async function daysOf(
  ws: Workspace,
  account: Account,
  formKey: string,
  asked: { readonly view: View; readonly search: string; readonly from: string; readonly before: string },
): Promise<Days> {
  const v = await viewed(ws, account, formKey);
  const { calendar } = asked.view;
  const [from, until] = [calendar?.from, calendar?.until ?? null].map((k) => v.table.columns.find((c) => c.key === k) ?? null);
  if (!from || !['date', 'datetime'].includes(from.type))
    throw new Refused(422, 'values', 'A calendar goes by a column of dates: choose one.', {});
  const { query } = await viewQuery(ws, account, v, { ...asked.view, group: null, sort: [{ column: from.key, descending: false }] }, asked.search); // prettier-ignore
  const span: ViewQuery = { ...query, where: [...query.where, spanOf(from, until ?? null, asked.from, asked.before)] };
  const db = await readingOf(ws, v.table);
  const rows = await viewPage(db, span, 0, MOST_ON_DAYS + 1);
  const shown = rows.slice(0, MOST_ON_DAYS);
  return {
    days: await viewDays(db, query, { column: from, from: asked.from, before: asked.before }),
    rows: shown,
    more: rows.length > MOST_ON_DAYS,
    linked: await linkedTexts(ws, v.table.columns, shown.map((r) => r.row), account),
  }; // prettier-ignore
}

/** The texts of a column that a view may name, each once, those that begin with what is searched first. */
export async function valuesNamed(
  ws: Workspace,
  account: Account,
  formKey: string,
  asked: { readonly table: string; readonly column: string; readonly search: string; readonly limit: number },
): Promise<Answer<typeof contract.views.values>> {
  const v = await viewed(ws, account, formKey);
  return valuesOfColumn(ws, asked.table, asked.column, asked, async (key) => {
    const open = v.tables.get(key);
    if (!open) throw notFound('This table');
    const model = key === v.form.table ? v.table : await tableFor(ws, account, key);
    return { ...model, columns: open.columns, shown: open.shown };
  });
}

// ---- those that are kept ----

/** One’s own views and those that are shared; what names something that they do not see is not told to them. */
export async function viewsOf(ws: Workspace, account: Account, formKey: string): Promise<Views> {
  const v = await viewed(ws, account, formKey);
  const names = await accountNames(ws.db);
  const views = (await viewRecords(ws.db, formKey, account.id)).flatMap((record) => {
    const read = viewSchema.safeParse(parsedJson(record.definition));
    if (!read.success || (!maySeeAll(account) && whyNot(v, read.data) !== null)) return [];
    const mine = record.account_id === account.id;
    return [{
      id: record.id, label: record.label, view: read.data, shared: Boolean(record.shared), usual: Boolean(record.usual),
      mine, mayChange: mayChange(account, record), by: names.get(record.account_id) ?? 'somebody',
    }]; // prettier-ignore
  });
  const { form, version } = v;
  const stepColumn = form.steps && form.fields[form.steps.field]?.column;
  return {
    form: {
      key: form.key,
      label: form.label,
      table: form.table,
      parent: form.parent,
      step: v.table.columns.find((c) => c.key === stepColumn)?.key ?? null,
    },
    version,
    // which rows somebody sees is the server’s to ask by, and nothing to tell
    tables: [...v.tables.values()].map((t) => ({ ...t, columns: [...t.columns], subsets: undefined, seen: undefined })),
    views,
  };
}
const mayChange = (account: Account, record: ViewRecord): boolean =>
  record.account_id === account.id || (Boolean(record.shared) && maySeeAll(account));
/** What of a view cannot be asked by whoever sees these columns, as a sentence; null where all can. */
function whyNot(v: Viewed, view: View): string | null {
  const missing = columnsNamed(view).find((k) => k !== 'id' && !v.table.columns.some((c) => c.key === k));
  if (missing !== undefined) return `There is no column “${missing}” that you see.`;
  const scope = scopeOf(v);
  for (const text of [...(view.where === null ? [] : [view.where]), ...view.colours.map((c) => c.where)]) {
    const condition = viewCondition(text, scope);
    if (typeof condition === 'string') return condition;
  }
  return null;
}

interface KeptView {
  readonly label: string;
  readonly view: View;
  readonly shared: boolean;
  readonly usual: boolean;
}
async function toKeep(ws: Workspace, account: Account, formKey: string, kept: KeptView): Promise<ViewToKeep> {
  const v = await viewed(ws, account, formKey);
  const wrong = whyNot(v, kept.view);
  if (wrong !== null) throw new Refused(422, 'values', `This view cannot be kept: ${wrong}`, {});
  const definition = JSON.stringify(kept.view);
  if (definition.length > MOST_VIEW_TEXT)
    throw new Refused(422, 'values', 'This view has too much in it to be kept. Shorten its conditions.', {});
  if (kept.shared && kept.usual && !maySeeAll(account))
    throw new Refused(403, 'forbidden', 'What everybody sees first is decided by those who build the form.', {});
  // what is looked at again and again is found by indexes
  for (const key of new Set([kept.view.group?.column, kept.view.calendar?.from, ...kept.view.sort.map((x) => x.column)])) {
    const column = v.table.columns.find((c) => c.key === key);
    // a link is put in order by a text of another table
    if (!column || targetOf(column) !== null) continue;
    const { table } = v.form;
    await ws.reshape([table], 'ensureIndexOf', [table, [column]], () => ensureIndex(ws.db, table, [column]));
  }
  return { label: kept.label, definition, shared: kept.shared, usual: kept.usual, at: ws.clock.now() };
}
export async function keepView(ws: Workspace, account: Account, formKey: string, kept: KeptView): Promise<number> {
  const view = await toKeep(ws, account, formKey, kept);
  const own = (await viewRecords(ws.db, formKey, account.id)).filter((r) => r.account_id === account.id);
  if (own.length >= MOST_VIEWS && !own.some((r) => r.label === kept.label))
    throw new Refused(422, 'tooMany', `You keep at most ${MOST_VIEWS} views of a form. Remove some.`, {});
  return insertView(ws.db, formKey, account.id, view);
}
/** The views of all forms that are shared, for an archive. */
export async function sharedViews(ws: Workspace): Promise<Archive['views']> {
  return (await allViews(ws.db)).flatMap((r) => {
    const view = viewSchema.safeParse(parsedJson(r.definition));
    return r.shared && view.success ? [{ form: r.form_key, label: r.label, usual: Boolean(r.usual), view: view.data }] : [];
  });
}
async function changeable(ws: Workspace, account: Account, formKey: string, id: number): Promise<ViewRecord> {
  const record = await viewRecord(ws.db, formKey, id);
  if (!record || !(record.shared || record.account_id === account.id)) throw notFound('This view');
  if (!mayChange(account, record))
    throw new Refused(403, 'forbidden', 'Somebody else shares this view. Keep one of your own under another name.', {});
  return record;
}
export async function changeView(ws: Workspace, account: Account, formKey: string, id: number, kept: KeptView): Promise<void> {
  const record = await changeable(ws, account, formKey, id);
  await updateView(ws.db, record, await toKeep(ws, account, formKey, kept));
}
export async function removeView(ws: Workspace, account: Account, formKey: string, id: number): Promise<void> {
  await deleteView(ws.db, (await changeable(ws, account, formKey, id)).id);
}

import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { fillable } from '../../core/engine/backfill.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Row } from '../../core/values/types.ts';
import { accountNames } from '../database/accounts';
import * as store from '../database/backfills';
import { entryRows } from '../database/rows';
import { Refused, notFound } from './errors';
import { publishedForm } from './forms';
import { othersFirst } from './pace';
import { linkedTexts, rowTexts } from './tables';
import type { Workspace } from './workspace';

export type BackfillView = BackfillOffer['earlier'][number];
export type BackfillOffer = Answer<typeof contract.backfills.offer>;

/** What a form can give to records that exist, and which backfills there have been. */
export async function backfillOffer(ws: Workspace, key: string): Promise<BackfillOffer> {
  const { form, version, plan } = await publishedForm(ws, key);
  const table = await ws.modelTable(form.table);
  const names = await accountNames(ws.db);
  const heads = await store.backfillHeads(ws.db, key);
  const counts = await store.backfillCounts(ws.aside, heads.map((h) => h.id)); // prettier-ignore
  return {
    form: form.label,
    version,
    records: await ws.rowCount(form.table),
    subsets: (table.subsets ?? []).map(({ key: k, label }) => ({ key: k, label })),
    earlier: heads.map((h) => viewOf(h, counts, version, names)),
    fields: fillable(plan).map((f) => ({
      field: f.key,
      label: f.definition.label,
      lines: linesLabel(plan, f.group),
      kind: f.value!.definition.kind,
      formula: f.value!.definition.formula,
    })),
  };
}

function viewOf(head: store.BackfillHead, counts: store.BackfillCounts, version: number, names: ReadonlyMap<number, string>): BackfillView {
  const { account, ...rest } = head;
  const by = account === null ? 'the demo' : (names.get(account) ?? 'somebody');
  return { ...rest, by, records: counts.get(head.id)!, current: head.version === version };
}

export async function headOf(ws: Workspace, form: string, id: number): Promise<store.BackfillHead> {
  const head = await store.backfillHead(ws.db, form, id);
  if (!head) throw notFound('This backfill');
  return head;
}
export async function backfillView(ws: Workspace, form: string, id: number): Promise<BackfillView> {
  const { version } = await publishedForm(ws, form);
  const head = await headOf(ws, form, id);
  return viewOf(head, await store.backfillCounts(ws.aside, [id]), version, await accountNames(ws.db));
}

export type ShownPage = Answer<typeof contract.backfills.page>;
type ShownField = ShownPage['fields'][string];
export type Showing = 'changes' | 'refused' | 'skipped';
const STATES_SHOWN: Record<Showing, readonly store.RecordState[]> = {
  changes: ['proposed', 'written', 'putBack'],
  refused: ['refused'],
  skipped: ['skipped'],
};

/** A page of what a backfill proposes or did, with the texts of the rows that values stand for. */
export async function backfillPage(
  ws: Workspace,
  key: string,
  id: number,
  query: { readonly show: Showing; readonly offset: number; readonly limit: number },
): Promise<ShownPage> {
  const head = await headOf(ws, key, id);
  const { plan } = await publishedForm(ws, key, head.version);
  const states = STATES_SHOWN[query.show];
  const counts = (await store.backfillCounts(ws.aside, [id])).get(id)!;
  const records = await store.backfillRecords(ws.aside, id, { states, offset: query.offset, limit: query.limit });
  const table = await ws.modelTable(plan.form.table);
  const rows = await entryRows(ws.db, table, { ids: records.map((r) => r.row) });
  const texts = await rowTexts(
    ws,
    table,
    rows.map((r) => r.row),
  );
  const held = new Map<Column, Row[]>();
  for (const g of records.flatMap((r) => r.given)) {
    const { column } = plan.fields[plan.slots.get(g.field) as number]!;
    if (column) held.set(column, [...(held.get(column) ?? []), ...[g.from, g.to].map((value) => ({ id: 0, [column.key]: value }))]);
  }
  const linked: Record<string, Record<number, string>> = {};
  for (const [column, values] of held)
    for (const [target, found] of Object.entries(await linkedTexts(ws, [column], values))) Object.assign((linked[target] ??= {}), found);
  const fields = Object.fromEntries(
    [...new Set(records.flatMap((r) => r.given.map((g) => g.field)))].map((path) => [path, shownField(plan, path)]),
  );
  return {
    fields,
    rows: records.map(({ row, state, given, problem }) => ({ row, state, given, problem, text: texts.get(row) ?? `row ${row}` })),
    total: states.reduce((n, s) => n + counts[s], 0),
    linked,
  };
}

/** What a field's values are written with. */
export function shownField(plan: Plan, path: string): ShownField {
  const { definition, column, group, choices } = plan.fields[plan.slots.get(path) as number] as PlanField;
  const options = [...(choices?.options ?? []), ...(choices?.retired ?? [])].map((o) => [String(o.value), String(o.label ?? o.value)]);
  return {
    label: definition.label,
    lines: linesLabel(plan, group),
    column,
    options: Object.fromEntries(options) as Record<string, string>,
  };
}
const linesLabel = (plan: Plan, group: number | null): string | null =>
  group === null ? null : (plan.lines[group]?.definition.label ?? null);

/** Forgets a preview that was not applied. */
export async function forgetBackfill(ws: Workspace, key: string, id: number): Promise<void> {
  const head = await headOf(ws, key, id);
  if (head.state === 'applied') throw new Refused(409, 'applied', 'This backfill was applied. Undo it first.', {});
  await dropBackfill(ws, id);
}
/** Forgets a backfill that is not applied: nobody finds it from now on, and its records go a few at a time. */
export async function dropBackfill(ws: Workspace, id: number): Promise<void> {
  if (!(await store.hideBackfill(ws.db, id))) return;
  while (!(await store.dropSomeOfBackfill(ws.db, id))) await othersFirst();
}

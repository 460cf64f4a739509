import type { Answer } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { csvCell, csvText } from '../../core/exchange/csv.ts';
import type { Column } from '../../core/model/tables.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { accountNames } from '../database/accounts';
import * as store from '../database/impacts';
import { entryRows } from '../database/rows';
import { shownField } from './backfillView';
import { notFound } from './errors';
import { draftOf, draftPlan } from './forms';
import { othersFirst } from './pace';
import { linkedTexts, rowTexts } from './tables';
import type { Workspace } from './workspace';

export type ImpactView = NonNullable<Answer<typeof contract.impacts.last>>;
export type ImpactPage = Answer<typeof contract.impacts.page>;

async function headOf(ws: Workspace, form: string, id: number): Promise<store.ImpactHead> {
  const head = await store.impactHead(ws.db, form, id);
  if (!head) throw notFound('This look at what the draft does');
  return head;
}
/** What was found, counted by field. */
export async function impactView(ws: Workspace, form: string, id: number): Promise<ImpactView> {
  return viewOf(ws, await headOf(ws, form, id));
}
/** What was found of a form last; null when nobody has looked. */
export async function lastImpact(ws: Workspace, form: string): Promise<ImpactView | null> {
  const { revision, version } = await draftOf(ws, form);
  const head = await store.impactHead(ws.db, form);
  return head && viewOf(ws, head, { revision, version });
}
async function viewOf(ws: Workspace, head: store.ImpactHead, now?: { revision: number; version: number | null }): Promise<ImpactView> {
  const { account, draftRevision, ...rest } = head;
  const by = account === null ? 'the demo' : ((await accountNames(ws.db)).get(account) ?? 'somebody');
  const current = now === undefined || (now.revision === draftRevision && now.version === head.version);
  const [counts, changing] = await Promise.all([store.impactCounts(ws.aside, head.id), store.changedCount(ws.aside, head.id)]);
  return { ...rest, fields: [...head.fields], by, current, counts, changing };
}

/** The records that a backfill of what was found changes. Throws Refused when it is no longer kept. */
export async function rowsOfImpact(ws: Workspace, form: string, id: number): Promise<number[]> {
  await headOf(ws, form, id);
  return store.changedRows(ws.aside, id);
}

/** What the values of findings are written with. */
interface Texts {
  readonly rows: ReadonlyMap<number, string>;
  readonly fields: ImpactPage['fields'];
  readonly linked: ImpactPage['linked'];
}
/** The texts of the records and rows that some findings name. */
async function textsOf(ws: Workspace, plan: Plan, found: readonly store.ImpactRow[]): Promise<Texts> {
  const table = await ws.modelTable(plan.form.table);
  const ids = [...new Set(found.map((f) => f.row))];
  const rows = await entryRows(ws.db, table, { ids });
  const held = new Map<Column, Row[]>();
  const fields: Record<string, ImpactPage['fields'][string]> = {};
  for (const f of found) {
    const slot = plan.slots.get(f.field);
    if (slot === undefined) continue;
    fields[f.field] ??= shownField(plan, f.field);
    const { column } = plan.fields[slot] as PlanField;
    if (column)
      held.set(column, [...(held.get(column) ?? []), ...[f.from, f.published, f.to].map((value) => ({ id: 0, [column.key]: value }))]);
  }
  const linked: Record<string, Record<number, string>> = {};
  for (const [column, values] of held)
    for (const [target, texts] of Object.entries(await linkedTexts(ws, [column], values))) Object.assign((linked[target] ??= {}), texts);
  return { rows: await rowTexts(ws, table, rows.map((r) => r.row)), fields, linked }; // prettier-ignore
}

/** A page of what was found: of one field and kind, or all. */
export async function impactPage(
  ws: Workspace,
  form: string,
  id: number,
  {
    field,
    kind,
    offset,
    limit,
  }: { readonly field?: string | undefined; readonly kind?: store.ImpactKind | undefined; readonly offset: number; readonly limit: number },
): Promise<ImpactPage> {
  await headOf(ws, form, id);
  const plan = await draftPlan(ws, form);
  const found = await store.impactRows(ws.aside, id, { field, kind, offset, limit });
  const { rows, fields, linked } = await textsOf(ws, plan, found);
  return { rows: found.map(({ origin: _, ...f }) => ({ ...f, text: rows.get(f.row) ?? `row ${f.row}` })), fields, linked };
}

/** Findings read at once. */
const PAGE = 500;
const HEADER = ['record', 'row', 'field', 'line', 'what', 'stored', 'published version', 'draft', 'message'];
/** What was found, as CSV: a line a finding, values as people read them. */
export async function* impactCsv(ws: Workspace, form: string, id: number): AsyncGenerator<string> {
  const plan = await draftPlan(ws, form);
  yield `${HEADER.map((h) => csvCell(h, true)).join(',')}\n`;
  for (let after = 0; ;) {
    const found = await store.impactRows(ws.aside, id, { after, limit: PAGE });
    const { rows, fields, linked } = await textsOf(ws, plan, found);
    const text = (field: string, value: Datum): string => writtenValue(fields[field], linked, value);
    yield found
      .map((f) =>
        [rows.get(f.row) ?? '', String(f.row), fields[f.field]?.label ?? '', f.place === null ? '' : String(f.place), WORDS[f.kind], text(f.field, f.from), text(f.field, f.published), text(f.field, f.to), f.message ?? '']
          .map((cell) => csvCell(cell, true))
          .join(','),
      )
      .map((line) => `${line}\n`)
      .join(''); // prettier-ignore
    if (found.length < PAGE) return;
    after = found.at(-1)!.id;
    await othersFirst();
  }
}
const WORDS: Readonly<Record<store.ImpactKind, string>> = {
  change: 'would change',
  follow: 'would change with it',
  next: 'changes with the next save',
  notOffered: 'no longer offered',
  required: 'required and empty',
  error: 'would refuse a save',
  warning: 'warning',
  refused: 'cannot be given',
  seen: 'would be seen by',
  unseen: 'would no longer be seen by',
};
function writtenValue(field: ImpactPage['fields'][string] | undefined, linked: ImpactPage['linked'], value: Datum): string {
  if (value === null || !field) return '';
  if (Array.isArray(value)) return (value as readonly Datum[]).map((v) => writtenValue(field, linked, v)).join('; ');
  const { column } = field;
  if (column?.target && typeof value === 'number') return linked[column.target]?.[value] ?? String(value);
  return field.options[String(value)] ?? (column ? csvText(column, value) : String(value));
}

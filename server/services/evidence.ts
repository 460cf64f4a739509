import type { Answer, Result } from '../../core/contract/define.ts';
import type { contract } from '../../core/contract/index.ts';
import { storedOf } from '../../core/engine/candidates.ts';
import type { Plan, PlanField } from '../../core/engine/plan.ts';
import { type SavedLine, howFillsWork } from '../../core/evidence/fills.ts';
import type { LinkedRows } from '../../core/evidence/world.ts';
import { entryUseOf } from '../../core/evidence/entryUse.ts';
import type { Attribute } from '../../core/evidence/where.ts';
import { holdsFiles } from '../../core/values/kinds/index.ts';
import { type Column, linkTarget } from '../../core/model/tables.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { type SaveLine, savesOf } from '../database/history';
import type { ModelTable } from '../database/model';
import { allRows, idsWith, rowsLinking } from '../database/rows';
import { entryCounts } from '../database/entryUse';
import { writeEntryCounts } from './entryUse';
import { publishedForm, publishedOrNull } from './forms';
import { type JobHandle, UNWATCHED } from './jobs';
import { linkedTexts } from './tables';
import type { Workspace } from './workspace';

/* What the records of a form say about it: how well its fills work. */

export type FillsUse = Result<typeof contract.evidence.fills>;
export interface FillsAsked {
  readonly since: string | null;
  readonly version: number | null;
  readonly step: string | null;
  /** the most saves that are looked through: the newest */
  readonly most?: number;
}
/** The most saves that are looked through, unless fewer are asked for. */
const MOST_SAVES = 200_000;
/** How many saves the mark beside a field is about. */
const LATELY = 1000;
/** Rows of linked tables up to this size are looked into for conditions. */
const MOST_LINKED = 5000;

/** How well the fills of a form work, over what its history says of the records saved by it. */
export async function fillsUse(ws: Workspace, form: string, asked: FillsAsked, job: JobHandle = UNWATCHED): Promise<FillsUse> {
  await writeEntryCounts(ws);
  return ws.work.run('fillsUse', { form, asked }, job);
}

/** In how many of the records saved lately what a field was given was kept, by field. None of a form that was not published. */
export async function keptLately(ws: Workspace, form: string): Promise<Answer<typeof contract.evidence.kept>> {
  if (!(await publishedOrNull(ws, form))) return {};
  const use = await ws.work.run('fillsUse', { form, asked: { since: null, version: null, step: null, most: LATELY } }, UNWATCHED);
  return Object.fromEntries(use.fields.map((f) => [f.field, { kept: f.counts.kept, of: f.records }]));
}

/** What is counted together: the fields of the form over its records, or those of a group of lines over their rows. */
interface Counted {
  readonly fields: readonly PlanField[];
  readonly table: ModelTable;
  /** goes before the labels of its fields */
  readonly label: string;
}
/** The counting itself, where nobody waits for it. */
export async function countFills(ws: Workspace, formKey: string, asked: FillsAsked, job: JobHandle): Promise<FillsUse> {
  const { plan } = await publishedForm(ws, formKey);
  const main: Counted = { fields: plan.own, table: await ws.modelTable(plan.form.table), label: '' };
  const inStep = await atStep(ws, plan, main.table, asked.step);
  const { use, told, older } = await countedOf(ws, plan, formKey, main, asked, inStep, null, (read) =>
    job.at(Math.min(0.6, read / MOST_SAVES), `reading the history: ${read.toLocaleString('en')} saves`),
  );
  const all = [...told];
  for (const { definition, first, count } of plan.lines) {
    job.at(0.7, `counting ${definition.label}`);
    const table = await ws.modelTable(definition.table);
    const lines: Counted = { fields: plan.fields.slice(first, first + count), table, label: `${definition.label} › ` };
    const only = inStep && (await rowsLinking(ws.db, table.key, definition.link, inStep));
    all.push(...(await countedOf(ws, plan, formKey, lines, asked, only, use.spans, () => undefined)).told);
  }
  job.at(0.9, 'counting');
  // what links lead to is told by what it is called
  const cells = all.flatMap((u) => [
    ...u.over.map((o) => ({ column: u.column, value: o.value })),
    ...u.unchosen.map((value) => ({ column: u.column, value })),
    ...(u.where ? [{ column: u.where.column, value: u.where.value }] : []),
  ]);
  const linked: Record<string, Record<number, string>> = {};
  for (const { column, value } of cells)
    for (const [key, texts] of Object.entries(await linkedTexts(ws, [column], [{ id: 0, [column.key]: value }])))
      linked[key] = { ...linked[key], ...texts };
  const entered = entryUseOf(await entryCounts(ws.db, formKey, asked.version));
  const lists = entered.lists.flatMap((l) => {
    const field = plan.fields.find((f) => f.key === l.field);
    return field ? [{ ...l, label: labelOf(plan, field) }] : [];
  });
  return { ...use, entered: { times: entered.times, lists }, fields: all.map(({ where, ...u }) => ({ ...u, where: where && withoutPath(where) })), older, linked } as FillsUse; // prettier-ignore
}
const labelOf = (plan: Plan, field: PlanField): string => {
  const [outer = '', inner] = field.key.split('.');
  const lines = inner === undefined ? undefined : plan.form.lines[outer];
  return `${lines ? `${lines.label} › ` : ''}${field.definition.label}`;
};

/** The records that stand at a step now; null where none is asked for. */
async function atStep(ws: Workspace, { form }: Plan, table: ModelTable, step: string | null): Promise<ReadonlySet<number> | null> {
  const column = form.steps && form.fields[form.steps.field]?.column;
  return step !== null && column ? idsWith(ws.db, table, column, step) : null;
}

/** Counts one group of fields over the history of its table. `only`: the rows that count, null for all. */
async function countedOf(
  ws: Workspace,
  plan: Plan,
  formKey: string,
  { fields: counted, table, label: before }: Counted,
  asked: FillsAsked,
  only: ReadonlySet<number> | null,
  spans: readonly string[] | null,
  at: (read: number) => void,
) {
  const { most = MOST_SAVES } = asked;
  const saves: SavedLine[] = [];
  let read = 0;
  for await (const page of savesOf(ws.db, { form: formKey, table: table.key, since: asked.since, version: asked.version }, most)) {
    read += page.length;
    at(read);
    for (const line of page) if (!only || only.has(line.row)) saves.push(savedLine(line));
  }
  const rows = await reachedRows(ws, plan, table.columns, 1);
  const attributes = attributesOf(plan, table.columns, rows);
  const offered = new Map(
    counted.flatMap((f) => {
      const options = f.choices?.options;
      return options ? [[f.key, options.map((o) => storedOf(f, o))] as const] : [];
    }),
  );
  const { fields, ...use } = howFillsWork(counted, saves, [...attributes.values()], offered, spans);
  const columnOf = (path: string): { label: string; column: Column } => {
    const [outer = '', inner] = path.split('.');
    const own = table.columns.find((c) => c.key === outer)!;
    const label = counted.find((f) => f.definition.column === outer)?.definition.label ?? own.label;
    const far = inner === undefined ? undefined : plan.tables.get(linkTarget(own) ?? '')?.columns.find((c) => c.key === inner);
    return far ? { label: `${label} › ${far.label}`, column: far } : { label, column: own };
  };
  const told = fields.map((u) => {
    const field = counted.find((f) => f.key === u.field)!;
    const column = table.columns.find((c) => c.key === field.definition.column)!;
    return { ...u, label: `${before}${field.definition.label}`, column, where: u.where && { ...u.where, ...columnOf(u.where.path) } };
  });
  return { use, told, older: read >= most };
}
const withoutPath = <W extends { path: string }>({ path: _, ...where }: W): Omit<W, 'path'> => where;

function savedLine({ changes, ...line }: SaveLine): SavedLine {
  const values: Record<string, Datum> = {};
  for (const [column, [, now]] of Object.entries(changes)) values[column] = now;
  return { ...line, values };
}

/** The rows that columns link to, and those that these link to, so many links away; of tables that are not too large. */
export async function reachedRows(ws: Workspace, plan: Plan, columns: readonly Column[], hops: number): Promise<LinkedRows> {
  const found = new Map<string, ReadonlyMap<number, Row>>();
  let level: readonly Column[] = columns;
  for (let i = 0; i < hops && level.length; i++) {
    const next: Column[] = [];
    for (const column of level) {
      const target = linkTarget(column);
      if (target === null || found.has(target) || !plan.tables.has(target) || (await ws.rowCount(target)) > MOST_LINKED) continue;
      const table = await ws.modelTable(target);
      found.set(target, new Map((await allRows(ws.db, table)).map((r) => [r.id, r])));
      next.push(...table.columns);
    }
    level = next;
  }
  return found;
}
/** What records can be told apart by: what is chosen, and what stands in the rows that links lead to. */
function attributesOf(plan: Plan, columns: readonly Column[], rows: LinkedRows): Map<string, Attribute> {
  const tells = (c: Column): boolean => !holdsFiles(c.type) && !['number', 'json', 'datetime'].includes(c.type);
  const found = new Map<string, Attribute>();
  for (const column of columns) {
    if (!tells(column)) continue;
    found.set(column.key, { path: column.key, column: column.key, of: (values) => values[column.key] ?? null });
    const target = linkTarget(column);
    const there = target === null ? undefined : rows.get(target);
    for (const far of there ? plan.tables.get(target!)!.columns : []) {
      const path = `${column.key}.${far.key}`;
      if (tells(far))
        found.set(path, { path, column: column.key, of: (values) => there!.get(Number(values[column.key]))?.[far.key] ?? null });
    }
  }
  return found;
}

import { eachNamed } from '../form/references.ts';
import type { Feed } from '../model/feeds.ts';
import type { OptionList } from '../model/lists.ts';
import { FILES, type Table, targetOf } from '../model/tables.ts';
import type { Checked } from '../formula/check.ts';
import { partsOf } from '../formula/formula.ts';
import type { Formula } from '../formula/formula.ts';
import { readsOf } from '../formula/reads.ts';
import type { Syntax } from '../formula/syntax.ts';
import type { Type } from '../values/typing.ts';
import type { Row } from '../values/types.ts';
import { formulasIn } from './conditions.ts';
import type { Plan } from './plan.ts';
import { formulasOfSteps } from './steps.ts';
import { type Answered, type Want, tableOfWant } from './wants.ts';

/**
 * What of the workspace a form reads: tables with the columns it shows, searches or computes with, feeds, option lists,
 * series. Whoever may only enter records is told this and no more.
 */
export interface Reach {
  /** by table, the columns; all others of the table are not told */
  readonly columns: ReadonlyMap<string, ReadonlySet<string>>;
  readonly feeds: ReadonlySet<string>;
  readonly lists: ReadonlySet<string>;
  /** texts that the names of series are made of, in their order; what stands between them is computed */
  readonly series: readonly (readonly string[])[];
}

/** Every compiled formula of a plan, as it is written and as it is asked: with its subset, and with what follows from levels above. */
export const formulasOfPlan = (plan: Plan): readonly Formula[] => [
  ...plan.written.map((w) => w.formula),
  ...plan.fields.flatMap((f) => (f.choices?.narrowing ? [f.choices.narrowing.formula] : [])),
  // who may see, fill and move: nobody wrote these
  ...[...plan.fields, ...plan.lines].flatMap((p) => formulasIn([...p.shown.filter((c) => c.of.kind === 'access'), ...p.filling])),
  ...formulasOfSteps(plan.steps),
];

/** What a form reads. Cost: linear in its formulas; kept by plan. */
export function reachOf(plan: Plan): Reach {
  let reach = kept.get(plan);
  if (!reach) kept.set(plan, (reach = new Reaching(plan).reach()));
  return reach;
}
const kept = new WeakMap<Plan, Reach>();

class Reaching {
  private readonly columns = new Map<string, Set<string>>();
  private readonly feeds = new Set<string>();
  private readonly lists = new Set<string>();
  private readonly series: string[][] = [];

  constructor(private readonly plan: Plan) {}

  reach(): Reach {
    const { form, fields } = this.plan;
    this.table('people');
    eachNamed(form, {
      table: (key) => void this.table(key),
      column: (table, key) => this.column(table, key),
      list: (key) => void this.lists.add(key),
      feed: (key) => void this.feeds.add(key),
    });
    for (const { choices } of fields) {
      if (!choices) continue;
      if (choices.asks?.feed === null && choices.asks.row !== null) this.wholeRows({ kind: 'row', table: choices.asks.row });
      // what is searched and sorted by when nothing is said
      if (choices.table !== null)
        for (const key of [...choices.sort.map((s) => s.key), ...(choices.values === null ? choices.search : [])])
          this.column(choices.table, key);
    }
    for (const f of formulasOfPlan(this.plan)) this.formula(f);
    for (const pick of this.plan.picks) {
      this.table(pick.table);
      if (pick.sort) this.column(pick.table, pick.sort.column);
    }
    return { columns: this.columns, feeds: this.feeds, lists: this.lists, series: this.series };
  }

  /** A table whose rows are named somewhere: at least what they are known by. */
  private table(key: string): Set<string> | null {
    const known = this.columns.get(key);
    if (known) return known;
    const table = this.plan.tables.get(key);
    if (!table) return null;
    const columns = new Set<string>();
    this.columns.set(key, columns);
    if (table.shown) this.column(key, table.shown);
    return columns;
  }
  private column(key: string, name: string): void {
    const columns = this.table(key);
    const column = this.plan.tables.get(key)?.columns.find((c) => c.key === name);
    if (!columns || !column || columns.has(name)) return;
    columns.add(name);
    // a link is shown by what the row it leads to is known by
    const target = targetOf(column);
    if (target) this.table(target);
  }
  private wholeRows(type: Type): void {
    if (type.kind !== 'row') return;
    for (const c of this.plan.tables.get(type.table)?.columns ?? []) this.column(type.table, c.key);
  }

  private formula(f: Formula): void {
    for (const type of f.types.values()) {
      const of = type.kind === 'list' ? type.of : type;
      if (of.kind === 'row') this.table(of.table);
    }
    for (const name of readsOf(f, () => null).columns) {
      const [table = '', column = ''] = name.split('.');
      this.column(table, column);
    }
    // parts that follow from the levels above were not written: their paths stand in the types alone
    for (const [node] of f.types) {
      const owner = node.kind === 'member' ? f.types.get(node.object) : undefined;
      if (node.kind === 'member' && owner?.kind === 'row') this.column(owner.table, node.property);
    }
    for (const [node, extra] of f.extras) {
      if (extra.kind === 'feed') this.feeds.add(extra.feed.key);
      if (extra.kind === 'attribute' && extra.table !== null) this.wholeRows({ kind: 'row', table: extra.table });
      if (extra.kind === 'series' && node.kind === 'call' && node.args[0]) this.series.push(literalsIn(node.args[0].value, f));
    }
  }
}

/** The texts written out in a formula that makes the name of a series, from left to right. */
function literalsIn(node: Syntax, checked: Checked): string[] {
  if (node.kind === 'text') return [node.value];
  return partsOf(node, checked).flatMap((n) => literalsIn(n, checked));
}

/** Whether a form can ask for the next number of a series of this name: it holds the texts that are written out, in order. */
export const reachesSeries = (reach: Reach, name: string): boolean =>
  reach.series.some((texts) => {
    let at = 0;
    for (const text of texts) {
      const found = name.indexOf(text, at);
      if (found < 0) return false;
      at = found + text.length;
    }
    return true;
  });

/** The tables a form reads, with the columns it reads: what a screen that only enters records compiles it against. */
export function tablesReached(plan: Plan): Table[] {
  const { columns } = reachOf(plan);
  return [...plan.tables.values()].flatMap((t) => {
    const reached = columns.get(t.key);
    return reached ? [{ ...t, columns: t.columns.filter((c) => reached.has(c.key)) }] : [];
  });
}

/** Option lists a form reads. */
export const listsReached = (plan: Plan, lists: Iterable<OptionList>): OptionList[] =>
  [...lists].filter((l) => reachOf(plan).lists.has(l.key));

/** Feeds a form reads, without what only the server needs: where and how they are asked. */
export const feedsReached = (plan: Plan, feeds: Iterable<Feed>): Feed[] =>
  [...feeds].filter((f) => reachOf(plan).feeds.has(f.key)).map(withoutAddress);
export const withoutAddress = (feed: Feed): Feed => ({ ...feed, url: '-', body: '', headers: [], method: 'GET', items: '', value: '', label_path: '', attributes: feed.attributes.map((a) => ({ ...a, path: '' })) }); // prettier-ignore

/** Answers with only the columns that the form reads. Rows of values of a column, and what feeds answer, are made for it already. */
export function answersReached(plan: Plan, answered: readonly Answered[]): Answered[] {
  const { columns } = reachOf(plan);
  return answered.map(({ want, answer }): Answered => {
    const table = tableRead(plan, want);
    const reached = table === null ? undefined : columns.get(table);
    if (!reached) return { want, answer };
    const cut = (row: Row): Row => ({ id: row.id, ...Object.fromEntries([...reached].map((c) => [c, row[c] ?? null])) });
    if ('rows' in answer) return { want, answer: { ...answer, rows: answer.rows.map(cut) } };
    return 'row' in answer && answer.row ? { want, answer: { ...answer, row: cut(answer.row) } } : { want, answer };
  });
}
/** The table whose whole rows an answer brings; null when they are none, or values of a column. */
function tableRead(plan: Plan, want: Want): string | null {
  if (want.kind === 'table' || want.kind === 'row') return want.table === FILES ? null : want.table;
  if ('field' in want && plan.fields[plan.slots.get(want.field) ?? -1]?.choices?.values) return null;
  return tableOfWant(plan, want);
}

/** Why a want asks for more than the form reads, as a sentence; null when it does not. Files are judged by who holds them. */
export function wantProblem(plan: Plan, want: Want): string | null {
  const reach = reachOf(plan);
  switch (want.kind) {
    case 'table':
    case 'row':
      return want.table === FILES || reach.columns.has(want.table) ? null : 'This form does not read that table.';
    case 'feed':
      return reach.feeds.has(want.feed) ? null : 'This form does not use that feed.';
    case 'series':
      return reachesSeries(reach, want.series) ? null : 'This form has no such series.';
    case 'last': {
      const saved = plan.own.some((f) => f.definition.column === want.column);
      return want.column === null || saved ? null : 'This form is not saved in that column.';
    }
    default:
      return null;
  }
}

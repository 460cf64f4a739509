import { type Narrowing, narrowRows, narrowingOf } from '../choices/narrowing.ts';
import { sortRows } from '../choices/order.ts';
import { type Column, columnOf } from '../model/tables.ts';
import type { DataEnv, Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { FeedParams, PickPart } from '../formula/extras.ts';
import type { Formula } from '../formula/formula.ts';
import { listsRead, slotsRead } from '../formula/formula.ts';
import { compileNode } from '../formula/compile.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import type { Plan } from './plan.ts';
import type { Want } from './wants.ts';

/** The most rows that GATHER gives. */
export const MOST_GATHERED = 5000;

/** Every PICK and GATHER in formulas, in a fixed order: the same form gives the same numbers on the screen and the server. */
export function picksIn(formulas: readonly (Formula | null)[]): PickPart[] {
  const found = new Set<PickPart>();
  for (const f of formulas) for (const extra of f?.extras.values() ?? []) if (extra.kind === 'pick') found.add(extra);
  return [...found];
}

const narrowings = new WeakMap<PickPart, Narrowing>();
/** The condition of a PICK as a narrowing: what is asked of the entry, and what of each row. */
export function narrowingOfPick(part: PickPart): Narrowing {
  let narrowing = narrowings.get(part);
  if (!narrowing) {
    const { condition, checked } = part;
    const whole = { ...checked, syntax: condition };
    narrowing = narrowingOf({
      ...whole,
      run: compileNode(condition, checked),
      slots: slotsRead(condition, whole),
      lists: listsRead(condition, whole),
      items: [],
    });
    narrowings.set(part, narrowing);
  }
  return narrowing;
}

/** The order of a PICK as columns. */
export function pickOrder(part: PickPart, plan: Pick<Plan, 'tables'>): Column | null {
  const table = plan.tables.get(part.table);
  return (table && part.sort && columnOf(table, part.sort.column)) ?? null;
}

type Found = { readonly rows: readonly Row[] } | Waiting | FormulaError;

/** What an entry's formulas may look up; what it lacks is wanted. `onSeries` hears of every number of a series that is read. */
export function dataEnv(
  plan: Plan,
  cache: DataCache,
  want: (want: Want) => void,
  onSeries: (name: string, number: number) => void,
): DataEnv {
  const numbers = new Map(plan.picks.map((part, i) => [part, i]));

  function ask(question: Want): ReturnType<DataCache['answer']> {
    const answer = cache.answer(question);
    if (!answer) want(question);
    return answer;
  }
  const failed = (reason: string): FormulaError => new FormulaError('notAvailable', reason);

  function pick(part: PickPart, env: Env): Result {
    const table = plan.tables.get(part.table);
    if (!table) return null;
    const narrowing = narrowingOfPick(part);
    const params: Datum[] = [];
    for (const param of narrowing.params) {
      const value = param.run(env);
      if (!isDatum(value)) return value;
      params.push(value);
    }
    const found = table.large ? picked(part, params) : inMemory(part, narrowing, params, env);
    if (!('rows' in found)) return found;
    const { rows } = found;
    if (!part.many) return rows[0]?.id ?? null;
    if (rows.length > MOST_GATHERED)
      return new FormulaError('tooMuch', `GATHER found more than ${MOST_GATHERED.toLocaleString('en')} rows.`);
    return rows.map((r) => r.id);
  }

  function picked(part: PickPart, params: readonly Datum[]): Found {
    const number = numbers.get(part);
    if (number === undefined) return failed('This is looked up once the formula is applied.');
    const answer = ask({ kind: 'picked', pick: number, params });
    if (answer?.kind === 'failed') return failed(answer.reason);
    return answer?.kind === 'picked' ? { rows: answer.rows } : Waiting.value;
  }

  function inMemory(part: PickPart, narrowing: Narrowing, params: readonly Datum[], env: Env): Found {
    const all = cache.table(part.table)?.rows;
    if (!all) {
      const question: Want = { kind: 'table', table: part.table };
      const reason = cache.failureOf(question);
      if (reason !== null) return failed(reason);
      want(question);
      return Waiting.value;
    }
    const before = env.params;
    env.params = params;
    const { rows, waiting, failed: broken } = narrowRows(narrowing, all, NONE, env);
    env.params = before;
    if (waiting) return Waiting.value;
    if (broken instanceof FormulaError) return broken;
    const by = pickOrder(part, plan);
    return { rows: by ? sortRows(rows, [by], part.sort?.descending) : rows };
  }

  return {
    pick,
    series(name) {
      const answer = ask({ kind: 'series', series: name });
      if (answer?.kind === 'failed') return failed(answer.reason);
      if (answer?.kind !== 'number') return Waiting.value;
      onSeries(name, answer.next);
      return answer.next;
    },
    last(column, value) {
      const answer = ask({ kind: 'last', column, value });
      if (answer?.kind === 'failed') return failed(answer.reason);
      return answer?.kind === 'last' ? (answer.row?.id ?? null) : Waiting.value;
    },
    feed(feed: string, params: FeedParams) {
      const answer = ask({ kind: 'feed', feed, params });
      if (answer?.kind === 'failed') return failed(answer.reason);
      return answer?.kind === 'items' ? (answer.items[0] ?? null) : Waiting.value;
    },
  };
}

const NONE: ReadonlySet<number> = new Set();

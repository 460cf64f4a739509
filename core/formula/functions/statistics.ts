import { add, canonical, compareNumbers, divide, multiply, power, product, squareRoot, subtract } from '../../values/decimal.ts';
import { sum } from '../../values/exactSum.ts';
import type { Datum } from '../../values/types.ts';
import type { Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  any,
  define,
  fail,
  finite,
  greatest,
  list,
  number,
  numbers,
  numbersIn,
  optional,
  p,
  repeats,
  yesno,
} from './define.ts';
import { CRITERION, criterionFor, itemTypeOf } from './criteria.ts';

const values = [p('value', numbers), p('value', numbers, repeats)];
const over = (
  name: string,
  least: number,
  summary: string,
  examples: [string, string][],
  f: (ns: number[], c: CallContext) => Result,
): FunctionDeclaration =>
  define({
    name,
    group: 'list',
    empties: 'given',
    parameters: values,
    summary,
    examples,
    returns: T.NUMBER,
    detail: `Empties are left out; empty when fewer than ${least === 1 ? 'one number is' : `${least} numbers are`} left.`,
    evaluate(args, c) {
      const ns = numbersIn(args);
      return ns.length < least ? null : f(ns, c);
    },
  });
const mean = (ns: readonly number[]): number => divide(sum(ns), ns.length);
/** Sum of squared distances from the mean, without rounding in between: n·Σx² − (Σx)², over n. */
const squares = (ns: readonly number[]): number =>
  divide(subtract(multiply(ns.length, sum(ns.map((n) => power(n, 2)))), power(sum(ns), 2)), ns.length);
const sorted = (ns: readonly number[]): number[] => [...ns].sort((a, b) => a - b);
/** The value at a share of the way through the sorted numbers, between neighbours in proportion (OpenFormula PERCENTILE). */
function percentile(ns: readonly number[], share: number): number {
  const ordered = sorted(ns);
  const at = share * (ordered.length - 1);
  const low = Math.floor(at);
  const below = ordered[low] ?? 0;
  return canonical(add(below, multiply(canonical(at - low), subtract(ordered[Math.min(low + 1, ordered.length - 1)] ?? 0, below))));
}

export const asList = (d: Datum | undefined): readonly Datum[] => (Array.isArray(d) ? (d as readonly Datum[]) : [d ?? null]);
/** The numbers of `of` that stand where `tested` meets the criterion. */
const chosen = ([tested, criterion, of]: readonly Datum[], { types }: CallContext): number[] => {
  const source = asList(of === undefined ? tested : of);
  const meets = criterionFor(criterion ?? null, types[1] ?? T.UNKNOWN, itemTypeOf(types[0]));
  return asList(tested)
    .flatMap((item, i) => (meets(item) ? [source[i] ?? null] : []))
    .filter((n) => typeof n === 'number');
};

export const STATISTICS = [
  over('VAR', 2, 'The variance of a sample.', [['VAR(2, 4, 6)', '4']], (ns) => divide(squares(ns), ns.length - 1)),
  over('VARP', 1, 'The variance of a whole population.', [['VARP(2, 4)', '1']], (ns) => divide(squares(ns), ns.length)),
  over('STDEV', 2, 'The standard deviation of a sample.', [['STDEV(2, 4, 6)', '2']], (ns) =>
    squareRoot(divide(squares(ns), ns.length - 1)),
  ),
  over('STDEVP', 1, 'The standard deviation of a whole population.', [['STDEVP(2, 4)', '1']], (ns) =>
    squareRoot(divide(squares(ns), ns.length)),
  ),
  over('AVEDEV', 1, 'The mean distance from the mean.', [['AVEDEV(2, 4, 6, 8)', '2']], (ns) => {
    const middle = mean(ns);
    return mean(ns.map((n) => Math.abs(subtract(n, middle))));
  }),
  over('DEVSQ', 1, 'The sum of the squared distances from the mean.', [['DEVSQ(2, 4, 6)', '8']], (ns) => squares(ns)),
  over('GEOMEAN', 1, 'The geometric mean.', [['GEOMEAN(2, 8)', '4']], (ns, c) =>
    ns.some((n) => n <= 0)
      ? fail('badArgument', 'All numbers must be more than 0.', c)
      : finite(canonical(power(product(ns), divide(1, ns.length))), c),
  ),
  over('HARMEAN', 1, 'The harmonic mean.', [['HARMEAN(2, 6)', '3']], (ns, c) =>
    ns.some((n) => n <= 0)
      ? fail('badArgument', 'All numbers must be more than 0.', c)
      : canonical(divide(ns.length, sum(ns.map((n) => divide(1, n))))),
  ),
  over('MODE', 1, 'The number that stands most often; the first of several.', [['MODE(1, 2, 2, 3)', '2']], (ns, c) => {
    const counts = new Map<number, number>();
    for (const n of ns) counts.set(n, (counts.get(n) ?? 0) + 1);
    const most = greatest([...counts.values()]);
    return most < 2 ? fail('notFound', 'No number stands more than once.', c) : ([...counts].find(([, k]) => k === most)?.[0] ?? null);
  }),
  define({
    name: 'PERCENTILE',
    group: 'list',
    empties: 'given',
    parameters: [p('values', numbers), p('share', number)],
    returns: T.NUMBER,
    summary: 'The value below which a share (0 to 1) of the numbers lies.',
    examples: [['PERCENTILE(JOIN(1, 2, 3, 4, 5), 0.25)', '2'], ['PERCENTILE(JOIN(1, 2), 0.5)', '1.5']], // prettier-ignore
    evaluate([list_, share], c) {
      const ns = numbersIn([list_ ?? null]);
      if (share === null || share === undefined || !ns.length) return null;
      return (share as number) < 0 || (share as number) > 1
        ? fail('badArgument', 'The share must lie between 0 and 1.', c)
        : percentile(ns, share as number);
    },
  }),
  define({
    name: 'QUARTILE',
    group: 'list',
    empties: 'given',
    parameters: [p('values', numbers), p('which', number)],
    returns: T.NUMBER,
    summary: 'The quartile: 0 the smallest, 1, 2 (the median), 3, 4 the largest.',
    examples: [['QUARTILE(JOIN(1, 2, 3, 4, 5), 1)', '2']],
    evaluate([list_, which], c) {
      const ns = numbersIn([list_ ?? null]);
      const q = Math.trunc((which as number | null) ?? -1);
      if (!ns.length) return null;
      return q < 0 || q > 4 ? fail('badArgument', 'The quartile must be 0 to 4.', c) : percentile(ns, q / 4);
    },
  }),
  define({
    name: 'RANK',
    group: 'list',
    empties: 'given',
    parameters: [p('number', number), p('values', numbers), p('ascending', yesno, optional)],
    returns: T.NUMBER,
    summary: 'The place of a number among others, the largest first (or the smallest, with TRUE).',
    examples: [['RANK(7, JOIN(5, 7, 9))', '2'], ['RANK(5, JOIN(5, 7, 9), TRUE)', '1']], // prettier-ignore
    evaluate([n, list_, ascending], c) {
      if (n === null) return null;
      const ns = numbersIn([list_ ?? null]);
      if (!ns.some((x) => compareNumbers(x, n as number) === 0)) return fail('notFound', 'The number is not among the values.', c);
      return 1 + ns.filter((x) => compareNumbers(x, n as number) === (ascending === true ? -1 : 1)).length;
    },
  }),
  define({
    name: 'SUMPRODUCT',
    group: 'list',
    empties: 'given',
    parameters: [p('values', list), p('values', list, repeats)],
    returns: T.NUMBER,
    summary: 'The values of lists multiplied place by place, and added. Places with an empty are left out.',
    examples: [['SUMPRODUCT(JOIN(1, 2), JOIN(3, 4))', '11']],
    evaluate(args, c) {
      const lists = args.map(asList);
      const length = lists[0]?.length ?? 0;
      if (lists.some((l) => l.length !== length)) return fail('badArgument', 'The lists must be of one length.', c);
      let total = 0;
      for (let i = 0; i < length; i++) {
        const place = lists.map((l) => l[i]);
        if (place.every((x): x is number => typeof x === 'number')) total = add(total, product(place));
      }
      return finite(total, c);
    },
  }),
  define({
    name: 'COUNTBLANK',
    group: 'list',
    empties: 'given',
    parameters: [p('value', any), p('value', any, repeats)],
    returns: T.NUMBER,
    summary: 'How many of the values are empty.',
    examples: [['COUNTBLANK(1, EMPTY(), "a")', '1']],
    evaluate: (args) => args.flatMap(asList).filter((x) => x === null).length,
  }),
  define({
    name: 'COUNTIF',
    group: 'list',
    empties: 'given',
    parameters: [p('values', any), p('criterion', any)],
    returns: T.NUMBER,
    summary: 'How many values meet a criterion.',
    detail: CRITERION,
    examples: [['COUNTIF(JOIN(1, 5, 9), ">4")', '2'], ['COUNTIF(JOIN("wet", "Wet heath", "dry"), "wet*")', '2']], // prettier-ignore
    evaluate: ([tested, criterion], { types }) =>
      asList(tested).filter(criterionFor(criterion ?? null, types[1] ?? T.UNKNOWN, itemTypeOf(types[0]))).length,
  }),
  define({
    name: 'SUMIF',
    group: 'list',
    empties: 'given',
    parameters: [p('values', any), p('criterion', any), p('added', numbers, optional)],
    returns: T.NUMBER,
    summary: 'The sum of the values that meet a criterion, or of what stands beside them in another list.',
    detail: CRITERION,
    examples: [['SUMIF(JOIN(1, 5, 9), ">4")', '14'], ['SUMIF(JOIN("a", "b", "a"), "a", JOIN(1, 2, 4))', '5']], // prettier-ignore
    evaluate: (args, c) => finite(sum(chosen(args, c)), c),
  }),
  define({
    name: 'AVERAGEIF',
    group: 'list',
    empties: 'given',
    parameters: [p('values', any), p('criterion', any), p('averaged', numbers, optional)],
    returns: T.NUMBER,
    summary: 'The mean of the values that meet a criterion, or of what stands beside them; empty when none does.',
    detail: CRITERION,
    examples: [['AVERAGEIF(JOIN(1, 5, 9), ">4")', '7']],
    evaluate(args, c) {
      const ns = chosen(args, c);
      return ns.length ? mean(ns) : null;
    },
  }),
];

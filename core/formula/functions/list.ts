import { add, divide, product } from '../../values/decimal.ts';
import { sum } from '../../values/exactSum.ts';
import { compareText } from '../../values/text.ts';
import type { Datum } from '../../values/types.ts';
import { keyOf } from '../equality.ts';
import * as T from '../../values/typing.ts';
import type { Type } from '../../values/typing.ts';
import { writeOut } from '../write.ts';
import {
  any,
  define,
  fail,
  finite,
  items,
  joined,
  list,
  number,
  numbers,
  numbersIn,
  optional,
  ordered,
  p,
  repeats,
  text,
  texts,
  yesno,
} from './define.ts';

const many = (type = numbers) => [p('value', type), p('value', type, repeats)];
const itemType = (t: Type | undefined): Type => (t?.kind === 'list' ? t.of : (t ?? T.UNKNOWN));
const unifiedItems = (types: readonly Type[]): Type | null =>
  types.reduce<Type | null>((all, t) => all && T.unify(all, itemType(t)), T.EMPTY_TYPE);
const extreme = (args: readonly Datum[], sign: 1 | -1): Datum => {
  let best: string | number | null = null;
  for (const item of items(args) as (string | number)[]) if (best === null || (item < best ? -1 : 1) * sign > 0) best = item;
  return best;
};
const median = (ns: number[]): number => {
  const sorted = [...ns].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  const upper = sorted[middle] ?? 0;
  return sorted.length % 2 ? upper : divide(add(sorted[middle - 1] ?? 0, upper), 2);
};

export const LIST = [
  define({
    name: 'SUM', group: 'list', empties: 'given', exact: true, parameters: many(), returns: T.NUMBER,
    summary: 'The sum. Empties are left out; the sum of nothing is 0.',
    examples: [['SUM(1, 2, EMPTY())', '3'], ['SUM(0.1, 0.2)', '0.3'], ['SUM(EMPTY())', '0']],
    evaluate: (args, c) => finite(sum(numbersIn(args)), c),
  }),
  define({
    name: 'PRODUCT', group: 'list', empties: 'given', exact: true, parameters: many(), returns: T.NUMBER,
    summary: 'All numbers multiplied. Empties are left out; empty when there are none.',
    examples: [['PRODUCT(2, 3, EMPTY())', '6']],
    evaluate(args, c) {
      const ns = numbersIn(args);
      return ns.length ? finite(product(ns), c) : null;
    },
  }),
  define({
    name: 'AVERAGE', group: 'list', empties: 'given', exact: true, parameters: many(), returns: T.NUMBER,
    summary: 'The mean of the numbers that are not empty; empty when there are none.',
    examples: [['AVERAGE(1, 2, EMPTY())', '1.5'], ['AVERAGE(EMPTY())', 'empty']],
    evaluate(args) {
      const ns = numbersIn(args);
      return ns.length ? divide(sum(ns), ns.length) : null;
    },
  }),
  define({
    name: 'MEDIAN', group: 'list', empties: 'given', parameters: many(), returns: T.NUMBER,
    summary: 'The middle number; of an even count, the mean of the two in the middle.',
    examples: [['MEDIAN(5, 1, 3)', '3'], ['MEDIAN(1, 2)', '1.5']],
    evaluate(args) {
      const ns = numbersIn(args);
      return ns.length ? median(ns) : null;
    },
  }),
  define({
    name: 'MIN', group: 'list', empties: 'given', parameters: many(ordered), returns: unifiedItems,
    summary: 'The smallest number or earliest date; empty when there are none.', examples: [['MIN(3, 1, 2)', '1'], ['MIN(DATE(2026, 3, 1), DATE(2026, 2, 1))', '2026-02-01']],
    evaluate: (args) => extreme(args, -1),
  }),
  define({
    name: 'MAX', group: 'list', empties: 'given', parameters: many(ordered), returns: unifiedItems,
    summary: 'The largest number or latest date; empty when there are none.', examples: [['MAX(3, 1, 2)', '3']],
    evaluate: (args) => extreme(args, 1),
  }),
  define({
    name: 'COUNT', group: 'list', empties: 'given', parameters: many(any), returns: T.NUMBER,
    summary: 'How many of the values are numbers.', examples: [['COUNT(1, EMPTY(), 3)', '2'], ['COUNT("a", 1)', '1']],
    evaluate: (args) => numbersIn(args).length,
  }),
  define({
    name: 'COUNTA', group: 'list', empties: 'given', parameters: many(any), returns: T.NUMBER,
    summary: 'How many of the values are not empty.', examples: [['COUNTA("a", EMPTY(), 3)', '2']],
    evaluate: (args) => items(args).length,
  }),
  define({
    name: 'LARGE', group: 'list', empties: 'given', parameters: [p('values', numbers), p('place', number)], returns: T.NUMBER,
    summary: 'The number at a place counted from the largest.', examples: [['LARGE(JOIN(5, 9, 7), 2)', '7']],
    evaluate([values, place], c) {
      const sorted = numbersIn([values ?? null]).sort((a, b) => b - a);
      return sorted[Math.trunc(place as number) - 1] ?? fail('badArgument', `There is no ${String(place)}. largest of ${sorted.length}.`, c);
    },
  }),
  define({
    name: 'SMALL', group: 'list', empties: 'given', parameters: [p('values', numbers), p('place', number)], returns: T.NUMBER,
    summary: 'The number at a place counted from the smallest.', examples: [['SMALL(JOIN(5, 9, 7), 2)', '7']],
    evaluate([values, place], c) {
      const sorted = numbersIn([values ?? null]).sort((a, b) => a - b);
      return sorted[Math.trunc(place as number) - 1] ?? fail('badArgument', `There is no ${String(place)}. smallest of ${sorted.length}.`, c);
    },
  }),
  define({
    name: 'TEXTJOIN', group: 'list', empties: 'given', parameters: [p('between', text), p('skip_empty', yesno), p('text', texts), p('text', texts, repeats)],
    returns: T.TEXT, summary: 'Joins texts with something between them.',
    detail: 'With skip_empty, empty parts are left out together with their separator; empty when nothing is left.',
    examples: [['TEXTJOIN(", ", TRUE, "a", EMPTY(), "b")', 'a, b'], ['TEXTJOIN("-", FALSE, "a", EMPTY(), "b")', 'a--b']],
    evaluate([between, skip, ...parts], { types }) {
      const written: string[] = [];
      parts.forEach((part, i) => {
        const type = itemType(types[i + 2]);
        for (const item of Array.isArray(part) ? (part as Datum[]) : [part ?? null]) {
          const out = item === null ? '' : writeOut(item, type);
          if (out !== '' || skip !== true) written.push(out);
        }
      });
      return written.length ? joined(written, (between as string | null) ?? '') : null;
    },
  }),
  define({
    name: 'JOIN', group: 'list', empties: 'given', parameters: many(any),
    returns: (types) => { const of = unifiedItems(types); return of && T.listOf(of); },
    summary: 'One list of all the values; lists are opened, empties left out.', examples: [['COUNT(JOIN(1, 2, EMPTY()))', '2']],
    evaluate: (args) => items(args),
  }),
  define({
    name: 'UNIQUE', group: 'list', empties: 'given', parameters: [p('values', list)], returns: ([t]) => t ?? null,
    summary: 'The list without repetitions (texts without regard to case), in the order of first appearance.',
    examples: [['COUNT(UNIQUE(JOIN(1, 2, 1)))', '2'], ['TEXTJOIN(" ", TRUE, UNIQUE(JOIN("a", "A", "b")))', 'a b']],
    evaluate([values], { types }) {
      const keyed = keyOf(itemType(types[0]));
      const seen = new Map<unknown, Datum>();
      for (const item of items([values ?? null])) {
        const key = keyed(item);
        if (!seen.has(key)) seen.set(key, item);
      }
      return [...seen.values()];
    },
  }),
  define({
    name: 'SORT', group: 'list', empties: 'given', parameters: [p('values', list), p('descending', yesno, optional)], returns: ([t]) => t ?? null,
    summary: 'The list in order.', examples: [['TEXTJOIN(" ", TRUE, SORT(JOIN(3, 1, 2)))', '1 2 3']],
    evaluate([values, descending]) {
      const sorted = items([values ?? null]).sort((a, b) =>
        typeof a === 'string' && typeof b === 'string' ? compareText(a, b) : Number(a) - Number(b));
      return descending === true ? sorted.reverse() : sorted;
    },
  }),
]; // prettier-ignore

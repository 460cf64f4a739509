import { compareNumbers, divide } from '../../values/decimal.ts';
import { sum } from '../../values/exactSum.ts';
import { compareText } from '../../values/text.ts';
import type { Datum } from '../../values/types.ts';
import { keyOf } from '../equality.ts';
import { FormulaError, type Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  any,
  define,
  fail,
  finite,
  greatest,
  least,
  list,
  number,
  numbers,
  optional,
  p,
  repeats,
} from './define.ts';
import { CRITERION, criterionFor, itemTypeOf } from './criteria.ts';
import { asList } from './statistics.ts';
import { wildcardMatch } from './wildcard.ts';

/*
 * Places in lists (OpenFormula 6.14) and totals under several criteria (6.16, COUNTIFS and its kin). The standard's ranges
 * are lists here: places are counted from 1.
 */
const orderOf = (a: Datum, b: Datum): number =>
  typeof a === 'number' && typeof b === 'number'
    ? compareNumbers(a, b)
    : typeof a === 'string' && typeof b === 'string'
      ? compareText(a, b)
      : a === b ? 0 : NaN; // prettier-ignore

/** The place of a value: kind 0 the first that is equal; 1 the last not greater in a rising list; -1 the last not less in a falling one. */
function placeOf(sought: Datum, values: readonly Datum[], kind: number, types: readonly T.Type[]): number {
  if (kind === 0) {
    if (typeof sought === 'string' && T.isTextual(types[0] ?? T.UNKNOWN))
      return values.findIndex((v) => typeof v === 'string' && wildcardMatch(sought, v));
    const [key, wanted] = [keyOf(itemTypeOf(types[1])), keyOf(types[0] ?? T.UNKNOWN)(sought)];
    return values.findIndex((v) => v !== null && key(v) === wanted);
  }
  let found = -1;
  for (const [i, v] of values.entries()) {
    const order = v === null ? NaN : orderOf(v, sought) * Math.sign(kind);
    if (Number.isNaN(order)) continue;
    if (order > 0) break;
    found = i;
  }
  return found;
}
const missing = (c: CallContext): Result => fail('notFound', 'The value is not in the list.', c);

/** The places whose values meet every criterion; lists of unlike length are a mistake. */
function placesMeeting(pairs: readonly Datum[], length: number | null, c: CallContext): number[] | FormulaError {
  const tested: { values: readonly Datum[]; meets(item: Datum): boolean }[] = [];
  // what stands before the pairs has a type too
  const types = c.types.slice(length === null ? 0 : 1);
  for (let i = 0; i + 1 < pairs.length; i += 2) {
    const meets = criterionFor(pairs[i + 1] ?? null, types[i + 1] ?? T.UNKNOWN, itemTypeOf(types[i]));
    tested.push({ values: asList(pairs[i] ?? null), meets });
  }
  const n = length ?? tested[0]?.values.length ?? 0;
  if (tested.some((t) => t.values.length !== n)) return fail('badArgument', 'The lists must be of one length.', c);
  return Array.from({ length: n }, (_, i) => i).filter((i) => tested.every((t) => t.meets(t.values[i] ?? null)));
}
const PAIRS = [p('values', any), p('criterion', any)];
const MORE = [p('values', any, repeats), p('criterion', any, repeats)];
const totals = (
  name: string,
  summary: string,
  examples: [string, string][],
  f: (ns: number[], c: CallContext) => Result,
): FunctionDeclaration =>
  define({
    name, group: 'list', empties: 'given', parameters: [p('totalled', numbers), ...PAIRS, ...MORE], inPairs: true, returns: T.NUMBER,
    summary, detail: CRITERION, examples,
    evaluate([of, ...pairs], c) {
      const values = asList(of ?? null);
      const places = placesMeeting(pairs, values.length, c);
      if (places instanceof FormulaError) return places;
      return f(places.map((i) => values[i] ?? null).filter((v): v is number => typeof v === 'number'), c);
    },
  }); // prettier-ignore

export const LOOKUPS = [
  define({
    name: 'MATCH', group: 'list', empties: 'given', parameters: [p('value', any), p('list', list), p('kind', number, optional)], returns: T.NUMBER,
    summary: 'The place of a value in a list. Kind 0: equal, * and ? stand for any characters; 1 (usual): the last not greater in a rising list; -1: the last not less in a falling one.',
    examples: [['MATCH("dry", JOIN("wet", "dry"), 0)', '2'], ['MATCH(6, JOIN(1, 5, 9))', '2'], ['ISNA(MATCH(0, JOIN(1, 5)))', 'TRUE']],
    evaluate([sought, values, kind], c) {
      if (sought === null) return null;
      const at = placeOf(sought ?? null, asList(values ?? null), Math.trunc((kind as number | null | undefined) ?? 1), c.types);
      return at < 0 ? missing(c) : at + 1;
    },
  }),
  define({
    name: 'INDEX', group: 'list', empties: 'given', parameters: [p('list', list), p('place', number)],
    summary: 'The item at a place of a list; the first is 1.', examples: [['INDEX(JOIN("a", "b"), 2)', 'b'], ['ISERROR(INDEX(JOIN(1, 2), 3))', 'TRUE']],
    returns: ([of]) => (of?.kind === 'list' ? of.of : T.UNKNOWN),
    evaluate([values, place], c) {
      if (place === null) return null;
      const all = asList(values ?? null);
      const at = Math.trunc(place as number);
      return at < 1 || at > all.length ? fail('badArgument', `The list has ${all.length} items; there is no place ${at}.`, c) : (all[at - 1] ?? null);
    },
  }),
  define({
    name: 'LOOKUP', group: 'list', empties: 'given', parameters: [p('value', any), p('rising list', list), p('results', list, optional)],
    summary: 'What stands in a second list where the value (or the last not greater) stands in the first.',
    examples: [['LOOKUP(6, JOIN(1, 5, 9), JOIN("low", "middle", "high"))', 'middle']],
    returns: ([, of, results]) => { const from = results ?? of; return from?.kind === 'list' ? from.of : T.UNKNOWN; },
    evaluate([sought, values, results], c) {
      if (sought === null) return null;
      const at = placeOf(sought ?? null, asList(values ?? null), 1, c.types);
      return at < 0 ? missing(c) : (asList(results ?? values ?? null)[at] ?? null);
    },
  }),
  define({
    name: 'COUNTIFS', group: 'list', empties: 'given', parameters: [...PAIRS, ...MORE], inPairs: true, returns: T.NUMBER,
    summary: 'How many places of lists meet all criteria.', detail: CRITERION,
    examples: [['COUNTIFS(JOIN(1, 5, 9), ">4", JOIN("a", "a", "b"), "a")', '1']],
    evaluate(args, c) {
      const places = placesMeeting(args, null, c);
      return places instanceof FormulaError ? places : places.length;
    },
  }),
  totals('SUMIFS', 'The sum of numbers where lists beside them meet all criteria.', [['SUMIFS(JOIN(1, 2, 4), JOIN("a", "b", "a"), "a", JOIN(1, 1, 2), ">1")', '4']], (ns, c) => finite(sum(ns), c)),
  totals('AVERAGEIFS', 'The mean of numbers where lists beside them meet all criteria; empty when none does.', [['AVERAGEIFS(JOIN(1, 2, 4), JOIN("a", "b", "a"), "a")', '2.5']], (ns) => (ns.length ? divide(sum(ns), ns.length) : null)),
  totals('MINIFS', 'The smallest number where lists beside it meet all criteria.', [['MINIFS(JOIN(3, 1, 2), JOIN("a", "b", "a"), "a")', '2']], (ns) => (ns.length ? least(ns) : null)),
  totals('MAXIFS', 'The largest number where lists beside it meet all criteria.', [['MAXIFS(JOIN(3, 1, 2), JOIN("a", "b", "a"), "a")', '3']], (ns) => (ns.length ? greatest(ns) : null)),
]; // prettier-ignore

import { keyOf } from '../equality.ts';
import { FormulaError, type Result, isDatum, isFormulaError, isWaiting } from '../errors.ts';
import * as T from '../../values/typing.ts';
import type { Type } from '../../values/typing.ts';
import { any, define, fail, items, number, optional, p, repeats, yesno, yesnos } from './define.ts';

const unified = (types: readonly Type[]): Type | null => types.reduce<Type | null>((all, t) => all && T.unify(all, t), T.EMPTY_TYPE);
const stops = (r: Result): boolean => isFormulaError(r) || isWaiting(r);

export const LOGICAL = [
  define({
    name: 'IF', group: 'logical', lazy: true,
    parameters: [p('condition', yesno), p('then', any), p('otherwise', any, optional)],
    summary: 'One value when the condition holds, another when it does not.',
    detail: 'An empty condition counts as not holding. Without a third value the result is then empty.',
    examples: [['IF(2 > 1, "yes", "no")', 'yes'], ['IF(FALSE, 1)', 'empty'], ['IF(EMPTY(), 1, 2)', '2']],
    returns: ([, then, otherwise]) => T.unify(then ?? T.UNKNOWN, otherwise ?? T.EMPTY_TYPE),
    evaluate([condition, then, otherwise]) {
      const met = condition?.() ?? null;
      if (stops(met)) return met;
      return (met === true ? then?.() : otherwise?.()) ?? null;
    },
  }),
  define({
    name: 'IFS', group: 'logical', lazy: true, inPairs: true,
    parameters: [p('condition', yesno), p('value', any), p('condition', yesno, repeats), p('value', any, repeats)],
    summary: 'The value behind the first condition that holds.',
    detail: 'Empty when none holds. Write TRUE as the last condition for “otherwise”.',
    examples: [['IFS(FALSE, "a", TRUE, "b")', 'b'], ['IFS(FALSE, 1)', 'empty']],
    returns: (types) => unified(types.filter((_, i) => i % 2 === 1)),
    evaluate(args) {
      for (let i = 0; i + 1 < args.length; i += 2) {
        const met = args[i]?.() ?? null;
        if (stops(met)) return met;
        if (met === true) return args[i + 1]?.() ?? null;
      }
      return null;
    },
  }),
  define({
    name: 'SWITCH', group: 'logical', lazy: true, inPairs: true, lastOfOdd: p('otherwise', any),
    parameters: [p('value', any), p('case', any), p('result', any), p('case', any, repeats), p('result', any, repeats)],
    summary: 'The result behind the case that the value equals; a last single value is for “otherwise”.',
    detail: 'Texts are compared without regard to case; a date equals the midnight of its day. Empty when no case fits and nothing stands for otherwise.',
    examples: [['SWITCH("b", "a", 1, "B", 2)', '2'], ['SWITCH(3, 1, "one", "more")', 'more']],
    returns: (types) => unified(types.filter((_, i) => i > 0 && (i % 2 === 0 || (i === types.length - 1 && types.length % 2 === 0)))),
    evaluate(args, { types }) {
      const value = args[0]?.() ?? null;
      if (!isDatum(value)) return value;
      const key = keyOf(types[0] ?? T.UNKNOWN);
      let i = 1;
      for (; i + 1 < args.length; i += 2) {
        const candidate = args[i]?.() ?? null;
        if (!isDatum(candidate)) return candidate;
        if (value !== null && key(value) === key(candidate)) return args[i + 1]?.() ?? null;
      }
      return i < args.length ? (args[i]?.() ?? null) : null;
    },
  }),
  define({
    name: 'CHOOSE', group: 'logical', lazy: true,
    parameters: [p('index', number), p('value', any), p('value', any, repeats)],
    summary: 'The value at a place in the list: 1 is the first.',
    examples: [['CHOOSE(2, "a", "b", "c")', 'b']],
    returns: (types) => unified(types.slice(1)),
    evaluate(args, context) {
      const index = args[0]?.() ?? null;
      if (index === null || stops(index)) return index;
      const chosen = args[Math.trunc(index as number)];
      if ((index as number) < 1 || !chosen) return fail('badArgument', `There is no ${String(index)}. value to choose.`, context);
      return chosen();
    },
  }),
  define({
    name: 'AND', group: 'logical', empties: 'given',
    parameters: [p('condition', yesnos), p('condition', yesnos, repeats)],
    summary: 'Whether all conditions hold. Empty counts as not holding.',
    examples: [['AND(TRUE, 1 < 2)', 'TRUE'], ['AND(TRUE, EMPTY())', 'FALSE']],
    returns: T.YESNO,
    evaluate: (args) => args.every((a) => (Array.isArray(a) ? a.every((x) => x === true) : a === true)),
  }),
  define({
    name: 'OR', group: 'logical', empties: 'given',
    parameters: [p('condition', yesnos), p('condition', yesnos, repeats)],
    summary: 'Whether at least one condition holds. Empty counts as not holding.',
    examples: [['OR(FALSE, 1 < 2)', 'TRUE'], ['OR(FALSE, EMPTY())', 'FALSE']],
    returns: T.YESNO,
    evaluate: (args) => items(args).some((a) => a === true),
  }),
  define({
    name: 'XOR', group: 'logical', empties: 'given',
    parameters: [p('condition', yesnos), p('condition', yesnos, repeats)],
    summary: 'Whether an odd number of conditions holds.',
    examples: [['XOR(TRUE, TRUE)', 'FALSE'], ['XOR(TRUE, FALSE)', 'TRUE']],
    returns: T.YESNO,
    evaluate: (args) => items(args).filter((a) => a === true).length % 2 === 1,
  }),
  define({
    name: 'NOT', group: 'logical', empties: 'given',
    parameters: [p('condition', yesno)],
    summary: 'Whether the condition does not hold. NOT of empty is TRUE.',
    examples: [['NOT(FALSE)', 'TRUE'], ['NOT(EMPTY())', 'TRUE']],
    returns: T.YESNO,
    evaluate: ([a]) => a !== true,
  }),
  define({
    name: 'TRUE', group: 'logical', parameters: [], summary: 'Yes.', examples: [['TRUE', 'TRUE']],
    returns: T.YESNO, evaluate: () => true,
  }),
  define({
    name: 'FALSE', group: 'logical', parameters: [], summary: 'No.', examples: [['FALSE', 'FALSE']],
    returns: T.YESNO, evaluate: () => false,
  }),
  define({
    name: 'EMPTY', group: 'logical', parameters: [], summary: 'Nothing: the empty value of any type.',
    examples: [['EMPTY()', 'empty']], returns: T.EMPTY_TYPE, evaluate: () => null,
  }),
  define({
    name: 'IFERROR', group: 'logical', lazy: true,
    parameters: [p('value', any), p('instead', any)],
    summary: 'The value, or the other one when computing it fails.',
    examples: [['IFERROR(1 / 0, 0)', '0'], ['IFERROR(4 / 2, 0)', '2']],
    returns: ([a, b]) => T.unify(a ?? T.UNKNOWN, b ?? T.UNKNOWN),
    evaluate([value, instead]) {
      const result = value?.() ?? null;
      return result instanceof FormulaError ? (instead?.() ?? null) : result;
    },
  }),
  define({
    name: 'COALESCE', group: 'logical', lazy: true,
    parameters: [p('value', any), p('value', any, repeats)],
    summary: 'The first of the values that is not empty.',
    examples: [['COALESCE(EMPTY(), 5)', '5'], ['COALESCE(EMPTY(), EMPTY())', 'empty']],
    returns: unified,
    evaluate(args) {
      for (const arg of args) {
        const value = arg();
        if (value !== null) return value;
      }
      return null;
    },
  }),
]; // prettier-ignore

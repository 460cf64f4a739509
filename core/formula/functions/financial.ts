import { canonical } from '../../values/decimal.ts';
import type { Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  define,
  fail,
  finite,
  number,
  numbers,
  numbersIn,
  optional,
  p,
  repeats,
} from './define.ts';

/*
 * Money over time (OpenFormula 6.12). What is paid is negative, what is received positive; `due` is 0 for payments at
 * the end of each period and 1 for the beginning. Computed in doubles and held to 15 digits: interest is never exact.
 */
const DUE = p('due', number, optional);
const money = (
  name: string,
  parameters: FunctionDeclaration['parameters'],
  summary: string,
  examples: [string, string][],
  f: (args: number[], c: CallContext) => Result,
): FunctionDeclaration =>
  define({
    name,
    group: 'financial',
    parameters,
    summary,
    examples,
    returns: T.NUMBER,
    evaluate(args, c) {
      const result = f(args as number[], c);
      return typeof result === 'number' ? finite(canonical(result), c) : result;
    },
  });
/** (1 + rate)^periods and the sum of its powers before. */
const growth = (rate: number, periods: number): { whole: number; paid: number } => {
  const whole = (1 + rate) ** periods;
  return { whole, paid: rate === 0 ? periods : (whole - 1) / rate };
};

export const FINANCIAL = [
  money(
    'PMT',
    [p('rate', number), p('periods', number), p('present', number), p('future', number, optional), DUE],
    'The payment each period that pays off a loan.',
    [
      ['ROUND(PMT(0.05, 3, 1000), 2)', '-367.21'],
      ['PMT(0, 4, 1000)', '-250'],
    ],
    ([rate = 0, n = 0, pv = 0, fv = 0, due = 0], c) => {
      if (n === 0) return fail('divideByZero', 'There must be at least one period.', c);
      const { whole, paid } = growth(rate, n);
      return -(pv * whole + fv) / ((due ? 1 + rate : 1) * paid);
    },
  ),
  money(
    'FV',
    [p('rate', number), p('periods', number), p('payment', number), p('present', number, optional), DUE],
    'What regular payments have grown to.',
    [['ROUND(FV(0.05, 3, -100), 2)', '315.25']],
    ([rate = 0, n = 0, pmt = 0, pv = 0, due = 0]) => {
      const { whole, paid } = growth(rate, n);
      return -(pv * whole + pmt * (due ? 1 + rate : 1) * paid);
    },
  ),
  money(
    'PV',
    [p('rate', number), p('periods', number), p('payment', number), p('future', number, optional), DUE],
    'What regular payments are worth today.',
    [['ROUND(PV(0.05, 3, -100), 2)', '272.32']],
    ([rate = 0, n = 0, pmt = 0, fv = 0, due = 0]) => {
      const { whole, paid } = growth(rate, n);
      return -(fv + pmt * (due ? 1 + rate : 1) * paid) / whole;
    },
  ),
  money(
    'NPER',
    [p('rate', number), p('payment', number), p('present', number), p('future', number, optional), DUE],
    'How many periods it takes.',
    [
      ['ROUND(NPER(0.05, -367.21, 1000), 2)', '3'],
      ['NPER(0, -250, 1000)', '4'],
    ],
    ([rate = 0, pmt = 0, pv = 0, fv = 0, due = 0], c) => {
      if (rate === 0) return pmt === 0 ? fail('divideByZero', 'Without interest and payment it never ends.', c) : -(pv + fv) / pmt;
      const level = (pmt * (due ? 1 + rate : 1)) / rate;
      const ratio = (level - fv) / (pv + level);
      return ratio > 0 ? Math.log(ratio) / Math.log(1 + rate) : fail('badArgument', 'With this payment it never ends.', c);
    },
  ),
  define({
    name: 'NPV',
    group: 'financial',
    empties: 'given',
    parameters: [p('rate', number), p('value', numbers), p('value', numbers, repeats)],
    returns: T.NUMBER,
    summary: 'What amounts at the end of coming periods are worth today.',
    examples: [['ROUND(NPV(0.1, 100, 100), 2)', '173.55']],
    evaluate([rate, ...rest], c) {
      if (rate === null || rate === undefined) return null;
      if (rate === -1) return fail('divideByZero', 'The rate must not be -1.', c);
      return finite(canonical(numbersIn(rest).reduce((total, v, i) => total + v / (1 + (rate as number)) ** (i + 1), 0)), c);
    },
  }),
  money(
    'SLN',
    [p('cost', number), p('salvage', number), p('life', number)],
    'Straight-line depreciation of one period.',
    [['SLN(1000, 100, 9)', '100']],
    ([cost = 0, salvage = 0, life = 0], c) => (life === 0 ? fail('divideByZero', 'The life must not be 0.', c) : (cost - salvage) / life),
  ),
  money(
    'SYD',
    [p('cost', number), p('salvage', number), p('life', number), p('period', number)],
    'Depreciation of one period by the sum of years’ digits.',
    [['SYD(1000, 100, 3, 1)', '450']],
    ([cost = 0, salvage = 0, life = 0, period = 0], c) =>
      period < 1 || period > life
        ? fail('badArgument', 'The period must lie within the life.', c)
        : ((cost - salvage) * (life - period + 1) * 2) / (life * (life + 1)),
  ),
  money(
    'DDB',
    [p('cost', number), p('salvage', number), p('life', number), p('period', number), p('factor', number, optional)],
    'Depreciation of one period, declining by a factor (2 when left out).',
    [
      ['DDB(1000, 100, 5, 1)', '400'],
      ['DDB(1000, 100, 5, 2)', '240'],
    ],
    ([cost = 0, salvage = 0, life = 0, period = 0, factor = 2], c) => {
      if (period < 1 || period > life) return fail('badArgument', 'The period must lie within the life.', c);
      // what a thing is worth after some periods: it falls by a share of itself each, but never below the salvage
      const worth = (periods: number): number => Math.max(cost * Math.max(0, 1 - factor / life) ** periods, Math.min(salvage, cost));
      const at = Math.trunc(period);
      return Math.max(0, worth(at - 1) - worth(at));
    },
  ),
  money(
    'EFFECT',
    [p('nominal', number), p('periods', number)],
    'The yearly rate that a nominal rate amounts to.',
    [['ROUND(EFFECT(0.12, 12), 6)', '0.126825']],
    ([rate = 0, n = 0], c) =>
      n < 1 ? fail('badArgument', 'There must be at least one period a year.', c) : (1 + rate / Math.trunc(n)) ** Math.trunc(n) - 1,
  ),
  money(
    'NOMINAL',
    [p('effective', number), p('periods', number)],
    'The nominal rate behind a yearly rate.',
    [['ROUND(NOMINAL(0.126825, 12), 4)', '0.12']],
    ([rate = 0, n = 0], c) =>
      n < 1 ? fail('badArgument', 'There must be at least one period a year.', c) : ((1 + rate) ** (1 / Math.trunc(n)) - 1) * Math.trunc(n),
  ),
];

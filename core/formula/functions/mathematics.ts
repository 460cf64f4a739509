import { fromWhole, power, toWhole } from '../../values/decimal.ts';
import { sum } from '../../values/exactSum.ts';
import type { Datum } from '../../values/types.ts';
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
  text,
  yesno,
} from './define.ts';
import { choose, falling, gcd, lcm } from './counting.ts';

type Examples = [string, string][];
const real = (
  name: string,
  summary: string,
  examples: Examples,
  f: (n: number) => number,
  domain?: (n: number) => string | null,
): FunctionDeclaration =>
  define({
    name,
    group: 'numeric',
    parameters: [p('number', number)],
    summary,
    examples,
    returns: T.NUMBER,
    evaluate([n], c) {
      const problem = domain?.(n as number);
      return problem ? fail('badArgument', problem, c) : finite(f(n as number), c);
    },
  });
const unit = (n: number): string | null => (n < -1 || n > 1 ? 'The number must lie between -1 and 1.' : null);
const parity = (name: string, odd: 0 | 1, summary: string, examples: Examples): FunctionDeclaration =>
  define({
    name,
    group: 'information',
    parameters: [p('number', number)],
    summary,
    examples,
    returns: T.YESNO,
    evaluate: ([n]) => Math.abs(Math.trunc(n as number)) % 2 === odd,
  });

/** The whole parts of numbers that must not be negative. */
const wholes = (args: readonly Datum[], c: CallContext): bigint[] | Result => {
  const ns = numbersIn(args);
  return ns.some((n) => n <= -1) ? fail('badArgument', 'The numbers must not be negative.', c) : ns.map(toWhole);
};
/** A count as a number; one that is too large is an error. */
const counted = (n: bigint | null, c: CallContext): Result => finite(n === null ? Infinity : fromWhole(n), c);
const outOfRange = (c: CallContext): Result => fail('badArgument', 'Chosen must lie between 0 and the number.', c);
const ROMAN: readonly (readonly [string, number])[] = [['M', 1000], ['CM', 900], ['D', 500], ['CD', 400], ['C', 100], ['XC', 90], ['L', 50], ['XL', 40], ['X', 10], ['IX', 9], ['V', 5], ['IV', 4], ['I', 1]]; // prettier-ignore

export const MATHEMATICS = [
  real('SIN', 'The sine of an angle in radians.', [['SIN(0)', '0']], Math.sin),
  real('COS', 'The cosine of an angle in radians.', [['COS(0)', '1']], Math.cos),
  real('TAN', 'The tangent of an angle in radians.', [['TAN(0)', '0']], Math.tan),
  real('ASIN', 'The angle (in radians) with this sine.', [['ROUND(ASIN(1), 4)', '1.5708']], Math.asin, unit),
  real('ACOS', 'The angle (in radians) with this cosine.', [['ACOS(1)', '0']], Math.acos, unit),
  real('ATAN', 'The angle (in radians) with this tangent.', [['ROUND(ATAN(1), 4)', '0.7854']], Math.atan),
  real('SINH', 'The hyperbolic sine.', [['SINH(0)', '0']], Math.sinh),
  real('COSH', 'The hyperbolic cosine.', [['COSH(0)', '1']], Math.cosh),
  real('TANH', 'The hyperbolic tangent.', [['TANH(0)', '0']], Math.tanh),
  real('DEGREES', 'An angle in degrees from radians.', [['ROUND(DEGREES(PI()), 6)', '180']], (n) => (n * 180) / Math.PI),
  real('RADIANS', 'An angle in radians from degrees.', [['ROUND(RADIANS(180), 4)', '3.1416']], (n) => (n * Math.PI) / 180),
  define({
    name: 'ATAN2', group: 'numeric', parameters: [p('x', number), p('y', number)], returns: T.NUMBER,
    summary: 'The angle (in radians) of the point x, y.', examples: [['ROUND(ATAN2(1, 1), 4)', '0.7854'], ['ISERROR(ATAN2(0, 0))', 'TRUE']],
    evaluate: ([x, y], c) => (x === 0 && y === 0 ? fail('divideByZero', 'The point 0, 0 has no angle.', c) : Math.atan2(y as number, x as number)),
  }),
  define({
    name: 'GCD', group: 'numeric', empties: 'given', parameters: [p('number', numbers), p('number', numbers, repeats)], returns: T.NUMBER,
    summary: 'The greatest common divisor.', examples: [['GCD(12, 18)', '6']],
    evaluate(args, c) { const ns = wholes(args, c); return Array.isArray(ns) ? counted((ns as bigint[]).reduce(gcd, 0n), c) : ns; },
  }),
  define({
    name: 'LCM', group: 'numeric', empties: 'given', parameters: [p('number', numbers), p('number', numbers, repeats)], returns: T.NUMBER,
    summary: 'The least common multiple.', examples: [['LCM(4, 6)', '12'], ['LCM(3, 0)', '0']],
    evaluate(args, c) {
      const ns = wholes(args, c);
      if (!Array.isArray(ns)) return ns;
      return counted((ns as bigint[]).reduce<bigint | null>((all, n) => (all === null ? null : lcm(all, n)), 1n), c);
    },
  }),
  define({
    name: 'COMBIN', group: 'numeric', parameters: [p('number', number), p('chosen', number)], returns: T.NUMBER,
    summary: 'In how many ways some can be chosen out of a number.', examples: [['COMBIN(5, 2)', '10'], ['COMBIN(4, 0)', '1'], ['ISERROR(COMBIN(1E15, 5E14))', 'TRUE']],
    evaluate([n, k], c) {
      const [a, b] = [Math.trunc(n as number), Math.trunc(k as number)];
      return a < 0 || b < 0 || b > a ? outOfRange(c) : counted(choose(toWhole(a), toWhole(b)), c);
    },
  }),
  define({
    name: 'PERMUT', group: 'numeric', parameters: [p('number', number), p('chosen', number)], returns: T.NUMBER,
    summary: 'In how many orders some can be taken out of a number.', examples: [['PERMUT(5, 2)', '20']],
    evaluate([n, k], c) {
      const [a, b] = [Math.trunc(n as number), Math.trunc(k as number)];
      return a < 0 || b < 0 || b > a ? outOfRange(c) : counted(falling(toWhole(a), b), c);
    },
  }),
  define({
    name: 'SUMSQ', group: 'numeric', empties: 'given', parameters: [p('number', numbers), p('number', numbers, repeats)], returns: T.NUMBER,
    summary: 'The sum of the squares.', examples: [['SUMSQ(3, 4)', '25']],
    evaluate: (args, c) => finite(sum(numbersIn(args).map((n) => power(n, 2))), c),
  }),
  define({
    name: 'BASE', group: 'text', parameters: [p('number', number), p('base', number), p('least_length', number, optional)], returns: T.TEXT,
    summary: 'A whole number written to another base, with leading zeros up to a length.', examples: [['BASE(10, 2)', '1010'], ['BASE(255, 16, 4)', '00FF']],
    evaluate([n, base, least = 0], c) {
      const [whole, radix] = [Math.trunc(n as number), Math.trunc(base as number)];
      if (whole < 0 || radix < 2 || radix > 36) return fail('badArgument', 'The number must not be negative and the base lie between 2 and 36.', c);
      return toWhole(whole).toString(radix).toUpperCase().padStart(Math.min(255, Math.max(0, Math.trunc(least as number))), '0');
    },
  }),
  define({
    name: 'DECIMAL', group: 'text', parameters: [p('text', text), p('base', number)], returns: T.NUMBER,
    summary: 'The number that a text spells to a base.', examples: [['DECIMAL("FF", 16)', '255'], ['ISERROR(DECIMAL("2", 2))', 'TRUE']],
    evaluate([s, base], c) {
      const radix = Math.trunc(base as number);
      const digits = (s as string).trim().toLowerCase();
      // 1,024 binary digits are the most that a number holds
      if (digits.length > 1024) return fail('overflow', 'The result is too large to be held.', c);
      let value = 0n;
      for (const digit of digits) {
        const d = '0123456789abcdefghijklmnopqrstuvwxyz'.indexOf(digit);
        if (radix < 2 || radix > 36 || d < 0 || d >= radix) return fail('badArgument', `“${digits}” is no number to base ${radix}.`, c);
        value = value * BigInt(radix) + BigInt(d);
      }
      return counted(value, c);
    },
  }),
  define({
    name: 'ROMAN', group: 'text', parameters: [p('number', number)], returns: T.TEXT,
    summary: 'A whole number from 0 to 3999 in Roman numerals.', examples: [['ROMAN(1999)', 'MCMXCIX'], ['ROMAN(0)', '']],
    evaluate([n], c) {
      let left = Math.trunc(n as number);
      if (left < 0 || left > 3999) return fail('badArgument', 'The number must lie between 0 and 3999.', c);
      let out = '';
      for (const [sign, value] of ROMAN) for (; left >= value; left -= value) out += sign;
      return out;
    },
  }),
  define({
    name: 'ARABIC', group: 'text', parameters: [p('text', text)], returns: T.NUMBER,
    summary: 'The number that Roman numerals spell.', examples: [['ARABIC("MCMXCIX")', '1999']],
    evaluate([s], c) {
      let rest = (s as string).trim().toUpperCase();
      let value = 0;
      for (const [sign, worth] of ROMAN) for (; rest.startsWith(sign); rest = rest.slice(sign.length)) value += worth;
      return rest === '' ? value : fail('badArgument', `“${s as string}” is no Roman number.`, c);
    },
  }),
  parity('ISEVEN', 0, 'Whether a number (without its decimals) is even.', [['ISEVEN(2.9)', 'TRUE'], ['ISEVEN(-3)', 'FALSE']]),
  parity('ISODD', 1, 'Whether a number (without its decimals) is odd.', [['ISODD(3)', 'TRUE']]),
  define({
    name: 'N', group: 'numeric', parameters: [p('condition', yesno)], returns: T.NUMBER,
    summary: '1 for yes, 0 for no.', examples: [['N(TRUE)', '1'], ['N(2 < 1)', '0']], evaluate: ([x]) => (x === true ? 1 : 0),
  }),
]; // prettier-ignore

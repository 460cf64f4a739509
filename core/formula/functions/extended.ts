import { addDays, dateFromParts, dateToDays, daysInMonth, isIsoTime, isLeapYear, partsOfDate } from '../../values/dates.ts';
import { add, canonical, divide, fromWhole, multiply, power, squareRoot, subtract, toWhole } from '../../values/decimal.ts';
import { sum } from '../../values/exactSum.ts';
import { isNumeral } from '../../values/read.ts';
import type { Datum } from '../../values/types.ts';
import { FormulaError, type Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import { days360 } from './date.ts';
import {
  type CallContext,
  type FunctionDeclaration,
  any,
  date,
  define,
  fail,
  finite,
  list,
  number,
  numbers,
  numbersIn,
  optional,
  p,
  repeats,
  text,
  writable,
  yesno,
} from './define.ts';
import { choose, falling, multinomial } from './counting.ts';
import { FORMAT_DETAIL, formatMoment, formatNumber } from './format.ts';
import { asList } from './statistics.ts';

/*
 * More of OpenFormula's larger groups: what is asked for now and then. Semantics by the paragraphs of the standard named
 * in each group.
 */
type Examples = [string, string][];
const numeric = (
  name: string,
  parameters: FunctionDeclaration['parameters'],
  summary: string,
  examples: Examples,
  f: (args: number[], c: CallContext) => Result,
  group: FunctionDeclaration['group'] = 'numeric',
): FunctionDeclaration =>
  define({
    name, group, parameters, summary, examples, returns: T.NUMBER,
    evaluate(args, c) {
      const result = f(args as number[], c);
      return typeof result === 'number' ? finite(result, c) : result;
    },
  }); // prettier-ignore
const one = [p('number', number)];
const two = [p('a', number), p('b', number)];
const whole = (n: number): boolean => Number.isInteger(n) && n >= 0 && n < 2 ** 48;
const bits = (name: string, summary: string, examples: Examples, f: (a: bigint, b: bigint) => bigint): FunctionDeclaration =>
  numeric(name, two, summary, examples, ([a = 0, b = 0], c) =>
    whole(a) && whole(b) ? Number(f(BigInt(a), BigInt(b))) : fail('badArgument', 'Whole numbers from 0 to 2^48 - 1 are needed.', c),
  );
/** A count as a number; Infinity, which `numeric` makes an error, when it is too large. */
const counted = (n: bigint | null): number => (n === null ? Infinity : fromWhole(n));

/** A number in another base as text, two's complement of ten digits for negatives (OpenFormula 6.19). */
function toBase(n: number, base: number, digits: number | undefined, c: CallContext): Result {
  const limit = base ** 10 / 2;
  const value = Math.trunc(n);
  if (value < -limit || value >= limit) return fail('badArgument', `The number must lie from ${-limit} to ${limit - 1}.`, c);
  if (digits !== undefined && (digits < 1 || digits >= 11)) return fail('badArgument', 'A number is written with 1 to 10 digits.', c);
  const written = (value < 0 ? value + base ** 10 : value).toString(base).toUpperCase();
  if (digits !== undefined && value >= 0) {
    if (written.length > digits) return fail('badArgument', `The number needs ${written.length} digits.`, c);
    return written.padStart(Math.trunc(digits), '0');
  }
  return written;
}
function fromBase(written: string, base: number, c: CallContext): Result {
  const digits = '0123456789ABCDEF'.slice(0, base);
  const upper = written.trim().toUpperCase();
  if (upper === '' || upper.length > 10 || [...upper].some((d) => !digits.includes(d)))
    return fail('badArgument', `“${written}” is no number to base ${base}.`, c);
  const value = parseInt(upper, base);
  return upper.length === 10 && value >= base ** 10 / 2 ? value - base ** 10 : value;
}
const base = (from: string, to: string, n: number): FunctionDeclaration[] => [
  define({
    name: `DEC2${from}`, group: 'numeric', parameters: [p('number', number), p('digits', number, optional)], returns: T.TEXT,
    summary: `A whole number written to base ${n}.`, examples: [[`DEC2${from}(5)`, n === 2 ? '101' : '5'], [`DEC2${from}(-1)`, (n - 1).toString(n).toUpperCase().repeat(10)]],
    evaluate: ([x, digits], c) => toBase(x as number, n, digits as number | undefined, c),
  }),
  define({
    name: `${from}2DEC`, group: 'numeric', parameters: [p('text', text)], returns: T.NUMBER,
    summary: `The number that a text to base ${n} spells.`, examples: [[`${from}2DEC("11")`, String(n + 1)]],
    evaluate: ([s], c) => fromBase(s as string, n, c),
  }),
]; // prettier-ignore

/** Pairs of numbers at the same places of two lists; a place with an empty is left out. */
function paired(xs: Datum | undefined, ys: Datum | undefined, c: CallContext): { xs: number[]; ys: number[] } | FormulaError {
  const [a, b] = [asList(xs ?? null), asList(ys ?? null)];
  if (a.length !== b.length) return fail('badArgument', 'The lists must be of one length.', c);
  const both = a
    .map((x, i) => [x, b[i]] as const)
    .filter((q): q is readonly [number, number] => typeof q[0] === 'number' && typeof q[1] === 'number');
  return { xs: both.map((q) => q[0]), ys: both.map((q) => q[1]) };
}
/** n·Σxy − Σx·Σy: the sum of products about the means, n times. */
const moment = (xs: readonly number[], ys: readonly number[]): number =>
  subtract(multiply(xs.length, sum(xs.map((x, i) => multiply(x, ys[i] ?? 0)))), multiply(sum(xs), sum(ys)));
const relation = (name: string, least: number, summary: string, examples: Examples, f: (xs: number[], ys: number[]) => number | null): FunctionDeclaration =>
  define({
    name, group: 'list', empties: 'given', parameters: [p('y values', list), p('x values', list)], returns: T.NUMBER, summary, examples,
    detail: `Places with an empty are left out; empty when fewer than ${least} are left.`,
    evaluate([y, x], c) {
      const found = paired(x, y, c);
      if (found instanceof FormulaError) return found;
      if (found.xs.length < least) return null;
      const result = f(found.xs, found.ys);
      return result === null ? fail('divideByZero', 'The values do not differ.', c) : finite(canonical(result), c);
    },
  }); // prettier-ignore
const slope = (xs: readonly number[], ys: readonly number[]): number | null => { const d = moment(xs, xs); return d === 0 ? null : divide(moment(xs, ys), d); }; // prettier-ignore
const intercept = (xs: readonly number[], ys: readonly number[]): number | null => { const b = slope(xs, ys); return b === null ? null : divide(subtract(sum(ys), multiply(b, sum(xs))), xs.length); }; // prettier-ignore
const correlation = (xs: readonly number[], ys: readonly number[]): number | null => { const d = multiply(moment(xs, xs), moment(ys, ys)); return d === 0 ? null : divide(moment(xs, ys), squareRoot(d)); }; // prettier-ignore

/** Newton's method with a check by bisection left out: the rates asked for are small and the curves smooth. */
function solve(f: (rate: number) => number, guess: number): number | null {
  let x = guess;
  for (let i = 0; i < 200; i++) {
    const y = f(x);
    const step = 1e-7 * Math.max(1, Math.abs(x));
    const slopeHere = (f(x + step) - f(x - step)) / (2 * step);
    if (!Number.isFinite(y) || slopeHere === 0) return null;
    const next = Math.max(-0.999_999, x - y / slopeHere);
    if (Math.abs(next - x) < 1e-13 * Math.max(1, Math.abs(next))) return next;
    x = next;
  }
  return null;
}
const grown = (rate: number, n: number): number => (rate === 0 ? n : ((1 + rate) ** n - 1) / rate);
const payment = (rate: number, n: number, pv: number, fv: number, due: number): number =>
  -(pv * (1 + rate) ** n + fv) / ((due ? 1 + rate : 1) * grown(rate, n));
/** The interest in one payment: what stands at the beginning of the period, times the rate (OpenFormula 6.12.24). */
function interest(rate: number, period: number, n: number, pv: number, fv: number, due: number): number {
  if (due && period === 1) return 0;
  const pmt = payment(rate, n, pv, fv, due);
  const before = period - 1 - (due ? 1 : 0);
  const standing = -(pv * (1 + rate) ** before + pmt * (due ? 1 + rate : 1) * grown(rate, before)) - (due ? pmt : 0);
  return standing * rate;
}
const LOAN = [p('rate', number), p('period', number), p('periods', number), p('present', number), p('future', number, optional), p('due', number, optional)]; // prettier-ignore
const share = (
  name: string,
  summary: string,
  examples: Examples,
  f: (a: { rate: number; per: number; n: number; pv: number; fv: number; due: number }) => number,
): FunctionDeclaration =>
  numeric(
    name,
    LOAN,
    summary,
    examples,
    ([rate = 0, per = 0, n = 0, pv = 0, fv = 0, due = 0], c) =>
      per < 1 || per > n
        ? fail('badArgument', 'The period must lie between 1 and the number of periods.', c)
        : canonical(f({ rate, per, n, pv, fv, due })),
    'financial',
  );
const CUMULATED = [p('rate', number), p('periods', number), p('present', number), p('first', number), p('last', number), p('due', number)];
const cumulated = (name: string, summary: string, examples: Examples, f: (rate: number, per: number, n: number, pv: number, due: number) => number): FunctionDeclaration =>
  numeric(name, CUMULATED, summary, examples, ([rate = 0, n = 0, pv = 0, first = 0, last = 0, due = 0], c) => {
    if (rate <= 0 || n <= 0 || pv <= 0 || first < 1 || last < first || last > n || n > 10_000) return fail('badArgument', 'Rate, periods and present value must be positive, and the first period not after the last.', c);
    let total = 0;
    for (let i = first; i <= last; i++) total += f(rate, i, n, pv, due);
    return canonical(total);
  }, 'financial'); // prettier-ignore

/** Easter Sunday in the Gregorian calendar, by the anonymous algorithm (Meeus, Astronomical Algorithms, ch. 8). */
function easter(year: number): string | null {
  const a = year % 19;
  const b = Math.floor(year / 100);
  const d = Math.floor(b / 4);
  const h = (19 * a + b - d - Math.floor((b - Math.floor((b + 8) / 25) + 1) / 3) + 15) % 30;
  const l = (32 + 2 * (b % 4) + 2 * Math.floor((year % 100) / 4) - h - (year % 4)) % 7;
  const m = Math.floor((a + 11 * h + 22 * l) / 451);
  return dateFromParts(year, Math.floor((h + l - 7 * m + 114) / 31), ((h + l - 7 * m + 114) % 31) + 1);
}

const isCode = (r: Result): FormulaError | null => (r instanceof FormulaError ? r : null);
const errorTest = (name: string, summary: string, examples: Examples, test: (e: FormulaError) => boolean): FunctionDeclaration =>
  define({
    name, group: 'information', lazy: true, parameters: [p('value', any)], returns: T.YESNO, summary, examples,
    evaluate([value]) {
      const result = value?.() ?? null;
      const error = isCode(result);
      if (error) return test(error);
      return typeof result === 'object' && result !== null && !Array.isArray(result) ? result : false;
    },
  }); // prettier-ignore

export const EXTENDED = [
  // ---- errors (6.13) ----
  errorTest('ISNA', 'Whether computing the value fails because something was not found.', [['ISNA(NA())', 'TRUE'], ['ISNA(1 / 0)', 'FALSE']], (e) => e.code === 'notFound'),
  errorTest('ISERR', 'Whether computing the value fails, but for something not found.', [['ISERR(1 / 0)', 'TRUE'], ['ISERR(NA())', 'FALSE']], (e) => e.code !== 'notFound'),
  define({
    name: 'NA', group: 'information', parameters: [], returns: T.UNKNOWN, summary: 'The error “not found”.', examples: [['ISNA(NA())', 'TRUE']],
    evaluate: (_, c) => fail('notFound', 'There is no value.', c),
  }),
  define({
    name: 'IFNA', group: 'logical', lazy: true, parameters: [p('value', any), p('instead', any)],
    summary: 'The value, or something else when what it looks for was not found.', examples: [['IFNA(MATCH(3, JOIN(1, 2), 0), 0)', '0'], ['IFNA(5, 0)', '5']],
    returns: ([a, b]) => T.unify(a ?? T.UNKNOWN, b ?? T.UNKNOWN),
    evaluate([value, instead]) {
      const result = value?.() ?? null;
      return isCode(result)?.code === 'notFound' ? (instead?.() ?? null) : result;
    },
  }),
  // ---- texts (6.20) ----
  define({
    name: 'TEXT', group: 'text', parameters: [p('value', writable), p('format', text)], returns: T.TEXT,
    summary: 'A number, date or time written by a format code: "0.00", "#,##0", "0%", "d mmmm yyyy", "hh:mm".',
    detail: FORMAT_DETAIL,
    examples: [['TEXT(1234.5, "#,##0.00")', '1,234.50'], ['TEXT(0.125, "0.0%")', '12.5%'], ['TEXT(DATE(2026, 3, 1), "d mmmm yyyy")', '1 March 2026'], ['TEXT(-5, "0;(0)")', '(5)'], ['TEXT(12345, "0.00E+00")', '1.23E+04'], ['TEXT(1.5, "[h]:mm")', '36:00'], ['ISERROR(TEXT(0.5, "# ?/?"))', 'TRUE']],
    evaluate([value, format], c) {
      const kind = c.types[0]?.kind;
      const written =
        typeof value === 'number'
          ? formatNumber(value, format as string)
          : typeof value === 'string' && (kind === 'date' || kind === 'time' || kind === 'datetime')
            ? formatMoment(value, format as string)
            : { ok: true as const, text: typeof value === 'boolean' ? (value ? 'TRUE' : 'FALSE') : String(value) };
      return written.ok ? written.text : fail('badArgument', written.message, c);
    },
  }),
  define({
    name: 'NUMBERVALUE', group: 'text', parameters: [p('text', text), p('point', text, optional), p('group', text, optional)], returns: T.NUMBER,
    summary: 'The number that a text spells with these signs for the decimal point (.) and between groups (,).',
    examples: [['NUMBERVALUE("1.234,5", ",", ".")', '1234.5'], ['NUMBERVALUE("12 345")', '12345']],
    evaluate([s, point = '.', group = ','], c) {
      // an empty sign would be found between any two characters
      const without = group === '' ? (s as string).replace(/\s/g, '') : (s as string).replace(/\s/g, '').replaceAll(group as string, '');
      const plain = point === '' ? without : without.replaceAll(point as string, '.');
      let end = plain.length;
      while (plain[end - 1] === '%') end--;
      const n = isNumeral(plain.slice(0, end)) ? canonical(Number(plain.slice(0, end))) : NaN;
      if (!Number.isFinite(n) || plain.length - end > 20) return fail('badArgument', `“${(s as string).slice(0, 60)}” is not a number.`, c);
      return canonical(divide(n, 100 ** (plain.length - end)));
    },
  }),
  define({
    name: 'CHAR', group: 'text', parameters: [p('code', number)], returns: T.TEXT, summary: 'The character with this number, 1 to 255 (Latin 1).', examples: [['CHAR(65)', 'A']],
    evaluate: ([n], c) => ((n as number) >= 1 && (n as number) < 256 ? String.fromCharCode(Math.trunc(n as number)) : fail('badArgument', 'The number must be 1 to 255.', c)),
  }),
  define({
    name: 'CODE', group: 'text', parameters: [p('text', text)], returns: T.NUMBER, summary: 'The number of the first character.', examples: [['CODE("A")', '65']],
    evaluate: ([s], c) => (s as string).codePointAt(0) ?? fail('badArgument', 'The text has no characters.', c),
  }),
  define({
    name: 'ROT13', group: 'text', parameters: [p('text', text)], returns: T.TEXT, summary: 'The text with its letters moved by 13 places.', examples: [['ROT13("fen")', 'sra']],
    evaluate: ([s]) => (s as string).replace(/[a-z]/gi, (l) => String.fromCharCode(l.charCodeAt(0) + (l.toLowerCase() < 'n' ? 13 : -13))),
  }),
  // ---- numbers (6.16) ----
  numeric('FACTDOUBLE', one, 'n · (n − 2) · (n − 4) … down to 1 or 2.', [['FACTDOUBLE(7)', '105'], ['FACTDOUBLE(6)', '48']], ([n = 0], c) => (n <= -2 ? fail('badArgument', 'The number must not be negative.', c) : n >= 400 ? Infinity : counted(falling(toWhole(n), 400, 2n)))),
  numeric('COMBINA', two, 'In how many ways b things can be taken out of a, each as often as one likes.', [['COMBINA(5, 3)', '35']], ([n = 0, k = 0], c) => {
    const [a, b] = [toWhole(n), toWhole(k)];
    if (n < 0 || k < 0 || (a === 0n && b > 0n)) return fail('badArgument', 'The numbers must not be negative.', c);
    return b === 0n ? 1 : counted(choose(a + b - 1n, b));
  }),
  numeric('PERMUTATIONA', two, 'In how many orders b things can be taken out of a, each as often as one likes.', [['PERMUTATIONA(3, 2)', '9']], ([n = 0, k = 0], c) => (n < 0 || k < 0 ? fail('badArgument', 'The numbers must not be negative.', c) : power(Math.trunc(n), Math.trunc(k)))),
  define({
    name: 'MULTINOMIAL', group: 'numeric', empties: 'given', parameters: [p('number', numbers), p('number', numbers, repeats)], returns: T.NUMBER,
    summary: 'The factorial of the sum, over the product of the factorials.', examples: [['MULTINOMIAL(3, 4, 5)', '27720']],
    evaluate(args, c) {
      const ns = numbersIn(args);
      if (ns.some((n) => n <= -1)) return fail('badArgument', 'The numbers must not be negative.', c);
      return finite(counted(multinomial(ns.map(toWhole))), c);
    },
  }),
  numeric('ASINH', one, 'The inverse hyperbolic sine.', [['ASINH(0)', '0']], ([n = 0]) => canonical(Math.asinh(n))),
  numeric('ACOSH', one, 'The inverse hyperbolic cosine.', [['ACOSH(1)', '0']], ([n = 0], c) => (n < 1 ? fail('badArgument', 'The number must be 1 or more.', c) : canonical(Math.acosh(n)))),
  numeric('ATANH', one, 'The inverse hyperbolic tangent.', [['ATANH(0)', '0']], ([n = 0], c) => (Math.abs(n) >= 1 ? fail('badArgument', 'The number must lie between -1 and 1.', c) : canonical(Math.atanh(n)))),
  numeric('COT', one, 'The cotangent of an angle in radians.', [['ROUND(COT(PI() / 4), 10)', '1']], ([n = 0], c) => (n === 0 ? fail('divideByZero', 'The cotangent of 0 has no value.', c) : canonical(1 / Math.tan(n)))),
  numeric('ACOT', one, 'The angle, in radians, with this cotangent; between 0 and π.', [['ROUND(ACOT(1) - PI() / 4, 10)', '0']], ([n = 0]) => canonical(Math.PI / 2 - Math.atan(n))),
  numeric('SEC', one, 'The secant of an angle in radians.', [['SEC(0)', '1']], ([n = 0]) => canonical(1 / Math.cos(n))),
  numeric('CSC', one, 'The cosecant of an angle in radians.', [['ROUND(CSC(PI() / 2), 10)', '1']], ([n = 0], c) => (n === 0 ? fail('divideByZero', 'The cosecant of 0 has no value.', c) : canonical(1 / Math.sin(n)))),
  numeric('SQRTPI', one, 'The square root of the number times π.', [['ROUND(SQRTPI(1), 6)', '1.772454']], ([n = 0], c) => (n < 0 ? fail('badArgument', 'The number must not be negative.', c) : canonical(Math.sqrt(n * Math.PI)))),
  bits('BITAND', 'The bits that both numbers have.', [['BITAND(12, 10)', '8']], (a, b) => a & b),
  bits('BITOR', 'The bits that either number has.', [['BITOR(12, 10)', '14']], (a, b) => a | b),
  bits('BITXOR', 'The bits that one of the numbers has and the other has not.', [['BITXOR(12, 10)', '6']], (a, b) => a ^ b),
  numeric('BITLSHIFT', two, 'The number with its bits moved to the left.', [['BITLSHIFT(3, 2)', '12']], ([a = 0, b = 0], c) => (whole(a) && Math.abs(b) < 54 ? Math.floor(a * 2 ** Math.trunc(b)) : fail('badArgument', 'A whole number from 0 to 2^48 - 1 is needed.', c))),
  numeric('BITRSHIFT', two, 'The number with its bits moved to the right.', [['BITRSHIFT(12, 2)', '3']], ([a = 0, b = 0], c) => (whole(a) && Math.abs(b) < 54 ? Math.floor(a / 2 ** Math.trunc(b)) : fail('badArgument', 'A whole number from 0 to 2^48 - 1 is needed.', c))),
  ...base('BIN', 'DEC', 2),
  ...base('OCT', 'DEC', 8),
  ...base('HEX', 'DEC', 16),
  // ---- two lists beside each other (6.16, 6.18) ----
  relation('CORREL', 2, 'How closely two lists of numbers go together: -1 to 1.', [['CORREL(JOIN(1, 2, 3), JOIN(2, 4, 6))', '1']], correlation),
  relation('RSQ', 2, 'The square of the correlation.', [['RSQ(JOIN(1, 2, 3), JOIN(2, 4, 6))', '1']], (xs, ys) => { const r = correlation(xs, ys); return r === null ? null : multiply(r, r); }),
  relation('SLOPE', 2, 'The slope of the straight line nearest to the points.', [['SLOPE(JOIN(3, 5, 7), JOIN(1, 2, 3))', '2']], slope),
  relation('INTERCEPT', 2, 'Where the straight line nearest to the points begins, at x = 0.', [['INTERCEPT(JOIN(3, 5, 7), JOIN(1, 2, 3))', '1']], intercept),
  relation('COVAR', 1, 'The mean of the products of the distances from the means.', [['COVAR(JOIN(1, 2, 3), JOIN(2, 4, 6))', '1.33333333333333']], (xs, ys) => divide(moment(xs, ys), multiply(xs.length, xs.length))),
  relation('SUMXMY2', 1, 'The sum of the squared differences.', [['SUMXMY2(JOIN(2, 3), JOIN(1, 1))', '5']], (xs, ys) => sum(xs.map((x, i) => power(subtract(ys[i] ?? 0, x), 2)))),
  relation('SUMX2MY2', 1, 'The sum of the differences of squares, the first list less the second.', [['SUMX2MY2(JOIN(2, 3), JOIN(1, 1))', '11']], (xs, ys) => sum(xs.map((x, i) => subtract(power(ys[i] ?? 0, 2), power(x, 2))))),
  relation('SUMX2PY2', 1, 'The sum of the sums of squares.', [['SUMX2PY2(JOIN(2, 3), JOIN(1, 1))', '15']], (xs, ys) => sum(xs.map((x, i) => add(power(ys[i] ?? 0, 2), power(x, 2))))),
  define({
    name: 'FORECAST', group: 'list', empties: 'given', parameters: [p('x', number), p('y values', list), p('x values', list)], returns: T.NUMBER,
    summary: 'Where the straight line nearest to the points is at x.', examples: [['FORECAST(4, JOIN(3, 5, 7), JOIN(1, 2, 3))', '9']],
    evaluate([at, y, x], c) {
      const found = paired(x, y, c);
      if (found instanceof FormulaError) return found;
      const [b, a] = [slope(found.xs, found.ys), intercept(found.xs, found.ys)];
      if (at === null || found.xs.length < 2) return null;
      return b === null || a === null ? fail('divideByZero', 'The values do not differ.', c) : finite(canonical(add(a, multiply(b, at as number))), c);
    },
  }),
  numeric('STANDARDIZE', [p('number', number), p('mean', number), p('deviation', number)], 'The distance from the mean in standard deviations.', [['STANDARDIZE(11, 10, 2)', '0.5']], ([n = 0, m = 0, s = 0], c) => (s <= 0 ? fail('badArgument', 'The deviation must be greater than 0.', c) : divide(subtract(n, m), s)), 'list'),
  // ---- dates (6.10) ----
  define({
    name: 'TIMEVALUE', group: 'date', parameters: [p('text', text)], returns: T.TIME, summary: 'The time that a text spells as hours:minutes, with or without seconds.',
    examples: [['TIMEVALUE("9:30")', '09:30:00'], ['ISERROR(TIMEVALUE("25:00"))', 'TRUE']],
    evaluate([s], c) {
      const m = /^\s*(\d{1,2}):(\d{2})(?::(\d{2}))?\s*$/.exec(s as string);
      const written = m ? `${(m[1] ?? '').padStart(2, '0')}:${m[2] ?? ''}:${m[3] ?? '00'}` : '';
      return isIsoTime(written) ? written : fail('badArgument', `“${s as string}” does not spell a time.`, c);
    },
  }),
  define({
    name: 'DAYS360', group: 'date', parameters: [p('start', date), p('end', date), p('european', yesno, optional)], returns: T.NUMBER,
    summary: 'The days between two dates in a year of twelve months of 30 days.', examples: [['DAYS360(DATE(2026, 1, 1), DATE(2026, 3, 1))', '60']],
    evaluate: ([a, b, european]) => days360((a as string).slice(0, 10), (b as string).slice(0, 10), european === true),
  }),
  define({
    name: 'EASTERSUNDAY', group: 'date', parameters: [p('year', number)], returns: T.DATE, summary: 'Easter Sunday of a year.', examples: [['EASTERSUNDAY(2026)', '2026-04-05']],
    evaluate: ([y], c) => ((y as number) >= 1583 && (y as number) <= 9999 ? easter(Math.trunc(y as number)) : fail('badArgument', 'The year must be 1583 to 9999.', c)),
  }),
  define({
    name: 'ISLEAPYEAR', group: 'date', parameters: [p('date', date)], returns: T.YESNO, summary: 'Whether the year of the date has a 29 February.', examples: [['ISLEAPYEAR(DATE(2024, 1, 1))', 'TRUE']],
    evaluate: ([d]) => isLeapYear(partsOfDate(d as string).year),
  }),
  define({
    name: 'DAYSINMONTH', group: 'date', parameters: [p('date', date)], returns: T.NUMBER, summary: 'How many days the month of the date has.', examples: [['DAYSINMONTH(DATE(2024, 2, 1))', '29']],
    evaluate: ([d]) => { const { year, month } = partsOfDate(d as string); return daysInMonth(year, month); },
  }),
  define({
    name: 'NEXTWEEKDAY', group: 'date', parameters: [p('date', date), p('weekday', number)], returns: T.DATE,
    summary: 'The first day on or after the date that is this weekday; Monday is 1.', examples: [['NEXTWEEKDAY(DATE(2026, 3, 4), 1)', '2026-03-09'], ['NEXTWEEKDAY(DATE(2026, 3, 9), 1)', '2026-03-09']],
    evaluate([d, w], c) {
      const day = Math.trunc(w as number);
      if (day < 1 || day > 7) return fail('badArgument', 'The weekday must be 1 (Monday) to 7.', c);
      const today = (((dateToDays(d as string) + 3) % 7) + 7) % 7;
      return addDays((d as string).slice(0, 10), (day - 1 - today + 7) % 7) ?? fail('overflow', 'The date lies outside the years 1 to 9999.', c);
    },
  }),
  // ---- money (6.12) ----
  share('IPMT', 'The interest in one payment of a loan.', [['ROUND(IPMT(0.1, 1, 3, 1000), 2)', '-100']], ({ rate, per, n, pv, fv, due }) => interest(rate, per, n, pv, fv, due)),
  share('PPMT', 'What one payment of a loan pays back.', [['ROUND(PPMT(0.1, 1, 3, 1000), 2)', '-302.11']], ({ rate, per, n, pv, fv, due }) => payment(rate, n, pv, fv, due) - interest(rate, per, n, pv, fv, due)),
  cumulated('CUMIPMT', 'The interest in several payments of a loan together.', [['ROUND(CUMIPMT(0.1, 3, 1000, 1, 2, 0), 2)', '-169.79']], (rate, per, n, pv, due) => interest(rate, per, n, pv, 0, due)),
  cumulated('CUMPRINC', 'What several payments of a loan pay back together.', [['ROUND(CUMPRINC(0.1, 3, 1000, 1, 3, 0), 2)', '-1000']], (rate, per, n, pv, due) => payment(rate, n, pv, 0, due) - interest(rate, per, n, pv, 0, due)),
  numeric('RATE', [p('periods', number), p('payment', number), p('present', number), p('future', number, optional), p('due', number, optional), p('guess', number, optional)], 'The rate of interest each period.', [['ROUND(RATE(3, -367.21, 1000), 4)', '0.05']], ([n = 0, pmt = 0, pv = 0, fv = 0, due = 0, guess = 0.1], c) => {
    const found = n > 0 ? solve((r) => pv * (1 + r) ** n + pmt * (due ? 1 + r : 1) * grown(r, n) + fv, guess) : null;
    return found === null ? fail('badArgument', 'No rate fits these amounts.', c) : canonical(found);
  }, 'financial'),
  define({
    name: 'IRR', group: 'financial', empties: 'given', parameters: [p('amounts', numbers), p('guess', number, optional)], returns: T.NUMBER,
    summary: 'The rate at which amounts, one each period, are worth nothing together.', examples: [['ROUND(IRR(JOIN(-100, 60, 60)), 4)', '0.1307']],
    evaluate([amounts, guess], c) {
      const ns = numbersIn([amounts ?? null]);
      if (!ns.some((n) => n > 0) || !ns.some((n) => n < 0)) return fail('badArgument', 'There must be amounts received and amounts paid.', c);
      const found = solve((r) => ns.reduce((t, n, i) => t + n / (1 + r) ** i, 0), (guess as number | null | undefined) ?? 0.1);
      return found === null ? fail('badArgument', 'No rate fits these amounts.', c) : finite(canonical(found), c);
    },
  }),
  numeric('RRI', [p('periods', number), p('present', number), p('future', number)], 'The rate at which one amount grows to another.', [['ROUND(RRI(2, 100, 121), 4)', '0.1']], ([n = 0, pv = 0, fv = 0], c) => (n <= 0 || pv === 0 ? fail('badArgument', 'Periods and present value must be positive.', c) : canonical((fv / pv) ** (1 / n) - 1)), 'financial'),
  numeric('PDURATION', [p('rate', number), p('present', number), p('future', number)], 'How many periods one amount takes to grow to another.', [['ROUND(PDURATION(0.1, 100, 121), 4)', '2']], ([r = 0, pv = 0, fv = 0], c) => (r <= 0 || pv <= 0 || fv <= 0 ? fail('badArgument', 'Rate and amounts must be positive.', c) : canonical(Math.log(fv / pv) / Math.log(1 + r))), 'financial'),
  numeric('DB', [p('cost', number), p('salvage', number), p('life', number), p('period', number), p('months', number, optional)], 'Depreciation of one period at a fixed rate of what is left; the rate is held to three decimals.', [['ROUND(DB(1000, 100, 5, 1), 2)', '369']], ([cost = 0, salvage = 0, life = 0, period = 0, months = 12], c) => {
    if (cost <= 0 || salvage < 0 || life <= 0 || period < 1 || period > life + 1) return fail('badArgument', 'The period must lie within the life, and the cost be positive.', c);
    const rate = Math.round((1 - (salvage / cost) ** (1 / life)) * 1000) / 1000;
    const at = Math.trunc(period);
    if (at === 1) return canonical((cost * rate * months) / 12);
    // what is left after the first year, in part, and the whole years between
    const left = (cost - (cost * rate * months) / 12) * (1 - rate) ** (at - 2);
    return canonical(at > life ? (left * rate * (12 - months)) / 12 : left * rate);
  }, 'financial'),
]; // prettier-ignore

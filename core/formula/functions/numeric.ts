import {
  divide,
  fromWhole,
  modulo,
  multiply,
  power,
  roundTo,
  type RoundingMode,
  squareRoot,
  subtract,
  withBig,
} from '../../values/decimal.ts';
import type { Datum } from '../../values/types.ts';
import type { Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import { falling } from './counting.ts';
import { type CallContext, type FunctionDeclaration, define, fail, finite, number, optional, p } from './define.ts';

type Examples = [string, string][];
const rounding = (name: string, mode: RoundingMode, summary: string, examples: Examples): FunctionDeclaration =>
  define({
    name, group: 'numeric', parameters: [p('number', number), p('digits', number, optional)], summary, examples, returns: T.NUMBER,
    detail: 'Digits are decimals (0 when left out); negative digits round to tens, hundreds and so on.',
    evaluate: ([n, digits = 0], c) => finite(roundTo(n as number, Math.trunc(digits as number), mode), c),
  }); // prettier-ignore
const unary = (name: string, summary: string, examples: Examples, f: (n: number, c: CallContext) => Result): FunctionDeclaration =>
  define({
    name, group: 'numeric', parameters: [p('number', number)], summary, examples, returns: T.NUMBER,
    evaluate: ([n], c) => f(n as number, c),
  }); // prettier-ignore

/** FLOOR and CEILING go to a multiple of the step; the sign of the step does not matter (OpenFormula 6.17.1, 6.17.3). */
const MODE_DETAIL = 'With a mode other than 0, negative numbers go the other way: ';
/** Where FLOOR and CEILING round a negative number to when a mode is given (OpenFormula 6.17.1): mirrored at zero. */
const mirrored = (n: Datum | undefined, mode: Datum | undefined, usual: RoundingMode, other: RoundingMode): RoundingMode =>
  (n as number) < 0 && (mode ?? 0) !== 0 ? other : usual;
const toMultiple = (n: number, step: number, mode: RoundingMode): number =>
  step === 0 ? 0 : multiply(roundTo(divide(n, Math.abs(step)), 0, mode), Math.abs(step));
const evenOdd = (n: number, odd: 0 | 1): number => {
  const away = Math.abs(roundTo(n, 0, 'up'));
  const result = away % 2 === odd ? away : away + 1;
  return n < 0 ? -result : result;
};

export const NUMERIC = [
  rounding('ROUND', 'halfAway', 'Rounds; halves go away from zero.', [['ROUND(2.345, 2)', '2.35'], ['ROUND(-2.5)', '-3'], ['ROUND(1234, -2)', '1200']]),
  rounding('ROUNDUP', 'up', 'Rounds away from zero.', [['ROUNDUP(2.301, 2)', '2.31'], ['ROUNDUP(-2.1)', '-3']]),
  rounding('ROUNDDOWN', 'down', 'Rounds towards zero.', [['ROUNDDOWN(2.349, 2)', '2.34'], ['ROUNDDOWN(-2.9)', '-2']]),
  rounding('TRUNC', 'down', 'Cuts off decimals.', [['TRUNC(-2.9)', '-2']]),
  unary('INT', 'The next whole number below.', [['INT(2.9)', '2'], ['INT(-2.1)', '-3'], ['INT(125^(1/3))', '5']], (n) => roundTo(n, 0, 'floor')),
  unary('ABS', 'The number without its sign.', [['ABS(-3)', '3']], (n) => Math.abs(n)),
  unary('SIGN', '1 for positive, -1 for negative, 0 for zero.', [['SIGN(-3)', '-1'], ['SIGN(0)', '0']], (n) => Math.sign(n)),
  unary('EVEN', 'The next even whole number away from zero.', [['EVEN(1.5)', '2'], ['EVEN(-1)', '-2']], (n) => evenOdd(n, 0)),
  unary('ODD', 'The next odd whole number away from zero.', [['ODD(1.5)', '3'], ['ODD(-2)', '-3']], (n) => evenOdd(n, 1)),
  unary('SQRT', 'The square root.', [['SQRT(9)', '3']], (n, c) =>
    n < 0 ? fail('badArgument', 'There is no square root of a negative number.', c) : squareRoot(n)),
  unary('EXP', 'e to the power of the number.', [['EXP(0)', '1']], (n, c) => finite(n > 800 ? Infinity : withBig(n, (x) => x.exp()), c)),
  unary('LN', 'The natural logarithm.', [['LN(1)', '0']], (n, c) =>
    n <= 0 ? fail('badArgument', 'Only positive numbers have a logarithm.', c) : withBig(n, (x) => x.ln())),
  unary('LOG10', 'The logarithm to base 10.', [['LOG10(1000)', '3']], (n, c) =>
    n <= 0 ? fail('badArgument', 'Only positive numbers have a logarithm.', c) : withBig(n, (x) => x.log(10))),
  define({
    name: 'MOD', group: 'numeric', parameters: [p('number', number), p('divisor', number)],
    summary: 'The remainder of a division; it has the sign of the divisor.',
    examples: [['MOD(7, 3)', '1'], ['MOD(-7, 3)', '2'], ['MOD(7, -3)', '-2']], returns: T.NUMBER,
    evaluate: ([a, b], c) => (b === 0 ? fail('divideByZero', 'MOD divides by zero.', c) : modulo(a as number, b as number)),
  }),
  define({
    name: 'QUOTIENT', group: 'numeric', parameters: [p('number', number), p('divisor', number)],
    summary: 'The whole part of a division.', examples: [['QUOTIENT(7, 2)', '3'], ['QUOTIENT(-7, 2)', '-3']], returns: T.NUMBER,
    evaluate: ([a, b], c) =>
      b === 0 ? fail('divideByZero', 'QUOTIENT divides by zero.', c) : roundTo(divide(a as number, b as number), 0, 'down'),
  }),
  define({
    name: 'POWER', group: 'numeric', parameters: [p('number', number), p('exponent', number)],
    summary: 'The number to the power of the exponent, as ^ does.', examples: [['POWER(2, 10)', '1024'], ['POWER(4, 0.5)', '2']], returns: T.NUMBER,
    evaluate: ([a, b], c) => finite(power(a as number, b as number), c),
  }),
  define({
    name: 'CEILING', group: 'numeric', parameters: [p('number', number), p('step', number, optional), p('mode', number, optional)],
    summary: 'The next multiple of the step above (towards plus infinity). The step is 1 when left out.',
    detail: `${MODE_DETAIL}away from zero.`,
    examples: [['CEILING(2.1)', '3'], ['CEILING(7, 5)', '10'], ['CEILING(-7, 5)', '-5'], ['CEILING(-7, 5, 1)', '-10']], returns: T.NUMBER,
    evaluate: ([n, step = 1, mode], c) => finite(toMultiple(n as number, step as number, mirrored(n, mode, 'ceiling', 'floor')), c),
  }),
  define({
    name: 'FLOOR', group: 'numeric', parameters: [p('number', number), p('step', number, optional), p('mode', number, optional)],
    summary: 'The next multiple of the step below (towards minus infinity). The step is 1 when left out.',
    detail: `${MODE_DETAIL}towards zero.`,
    examples: [['FLOOR(2.9)', '2'], ['FLOOR(7, 5)', '5'], ['FLOOR(-7, 5)', '-10'], ['FLOOR(-7, 5, 1)', '-5']], returns: T.NUMBER,
    evaluate: ([n, step = 1, mode], c) => finite(toMultiple(n as number, step as number, mirrored(n, mode, 'floor', 'ceiling')), c),
  }),
  define({
    name: 'MROUND', group: 'numeric', parameters: [p('number', number), p('step', number)],
    summary: 'The nearest multiple of the step.', examples: [['MROUND(7, 5)', '5'], ['MROUND(8, 5)', '10']], returns: T.NUMBER,
    evaluate: ([n, step], c) => finite(toMultiple(n as number, step as number, 'halfAway'), c),
  }),
  define({
    name: 'LOG', group: 'numeric', parameters: [p('number', number), p('base', number, optional)],
    summary: 'The logarithm to a base (10 when left out).', examples: [['LOG(8, 2)', '3'], ['LOG(100)', '2']], returns: T.NUMBER,
    evaluate: ([n, base = 10], c) =>
      (n as number) <= 0 || (base as number) <= 0 || base === 1
        ? fail('badArgument', 'Number and base must be positive, and the base not 1.', c)
        : withBig(n as number, (x) => x.log(base as number)),
  }),
  define({
    name: 'FACT', group: 'numeric', parameters: [p('number', number)],
    summary: 'The factorial: 1 · 2 · 3 · … up to the number.', examples: [['FACT(5)', '120'], ['FACT(0)', '1']], returns: T.NUMBER,
    evaluate([n], c) {
      const whole = Math.trunc(n as number);
      if (whole < 0) return fail('badArgument', 'A negative number has no factorial.', c);
      if (whole > 170) return fail('overflow', 'The result is too large to be held.', c);
      return finite(fromWhole(falling(BigInt(whole), whole) ?? 0n), c);
    },
  }),
  define({
    name: 'PI', group: 'numeric', parameters: [], summary: 'π to 15 digits.', examples: [['ROUND(PI(), 4)', '3.1416']],
    returns: T.NUMBER, evaluate: () => 3.14159265358979,
  }),
  define({
    name: 'DELTA', group: 'numeric', parameters: [p('number', number), p('other', number, optional)],
    summary: '1 when the numbers are equal, else 0.', examples: [['DELTA(4, 4)', '1'], ['DELTA(4)', '0']], returns: T.NUMBER,
    evaluate: ([a, b = 0]) => (subtract(a as number, b as number) === 0 ? 1 : 0),
  }),
]; // prettier-ignore

import fc from 'fast-check';
import { expect, test } from 'vitest';
import { testEnv, testScope } from '../testing/scope.ts';
import { type RoundingMode, add, divide, multiply, roundTo, subtract } from '../values/decimal.ts';
import { type Arithmetic, arithmeticOf, runArithmetic, together } from './arithmetic.ts';
import { FormulaError, type Result, Waiting } from './errors.ts';
import { type Formula, formula } from './formula.ts';
import type { Syntax } from './syntax.ts';

/* Arithmetic as steps is held against the operations themselves, applied one by one. */

const NAMES = ['a', 'b', 'c'] as const;
const short = fc
  .tuple(fc.integer({ min: -99_999_999, max: 99_999_999 }), fc.integer({ min: 0, max: 9 }))
  .map(([n, d]) => Number(`${n}e-${d}`));
const long = fc.tuple(fc.integer({ min: -999_999_999_999_999, max: 999_999_999_999_999 }), fc.integer({ min: -3, max: 24 })).map(([n, d]) => Number(`${n}e${-d}`)); // prettier-ignore
/** Numbers as they are entered, of all 15 digits, of more, and at the ends of what mantissas hold. */
const number = fc.oneof(
  { weight: 4, arbitrary: short },
  { weight: 3, arbitrary: long },
  { weight: 1, arbitrary: fc.tuple(short, short).map(([a, b]) => (b === 0 ? 0 : divide(a, b))) },
  { weight: 1, arbitrary: fc.constantFrom(0, 1, -1, 1e14, -1e14, 999_999_999_999_999, 1e15, 0.1, 1e-8, 9.99999999999999e-9, 1e22, 5e-324, 9.9e307) },
); // prettier-ignore

const text: fc.Arbitrary<string> = fc.letrec<{ tree: string }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 6, withCrossShrink: true },
    { weight: 2, arbitrary: fc.constantFrom(...NAMES) },
    { weight: 1, arbitrary: fc.constantFrom('0.999', '1', '0', '12.35', '1000', '0.000000012', '123456789012345', '3') },
    {
      weight: 4,
      arbitrary: fc.tuple(tie('tree'), fc.constantFrom('+', '-', '*', '/'), tie('tree')).map(([x, o, y]) => `(${x} ${o} ${y})`),
    },
    { weight: 1, arbitrary: tie('tree').map((x) => `(-${x})`) },
    {
      weight: 1,
      arbitrary: fc
        .tuple(
          fc.constantFrom('ROUND', 'ROUNDUP', 'ROUNDDOWN', 'TRUNC'),
          tie('tree'),
          fc.constantFrom('', ', 0', ', 1', ', 2', ', 5', ', 15'),
        )
        .map(([f, x, digits]) => `${f}(${x}${digits})`),
    },
    { weight: 1, arbitrary: tie('tree').map((x) => `INT(${x})`) },
  ),
})).tree;

const MODES: Readonly<Record<string, RoundingMode>> = { ROUND: 'halfAway', ROUNDUP: 'up', ROUNDDOWN: 'down', TRUNC: 'down', INT: 'floor' };

/** What a formula gives, worked out operation by operation: undefined where it is no number. */
function plainly(node: Syntax, values: Readonly<Record<string, Result>>): number | undefined {
  const held = (n: number): number | undefined => (Number.isFinite(n) ? n : undefined);
  if (node.kind === 'number') return node.value;
  if (node.kind === 'group') return plainly(node.inner, values);
  if (node.kind === 'name') return typeof values[node.name] === 'number' ? (values[node.name] as number) : undefined;
  if (node.kind === 'unary') {
    const n = plainly(node.operand, values);
    return n === undefined || n === 0 ? n : -n;
  }
  if (node.kind === 'call') {
    const [of, digits] = node.args.map((a) => plainly(a.value, values));
    return of === undefined ? undefined : held(roundTo(of, digits ?? 0, MODES[node.name]));
  }
  if (node.kind !== 'binary') throw new Error(`not in these texts: ${node.kind}`);
  const a = plainly(node.left, values);
  const b = plainly(node.right, values);
  if (a === undefined || b === undefined) return undefined;
  if (node.operator === '/') return b === 0 ? undefined : held(divide(a, b));
  return held((node.operator === '+' ? add : node.operator === '-' ? subtract : multiply)(a, b));
}
const read = (written: string): { readonly f: Formula; readonly steps: Arithmetic | null; readonly syntax: Syntax } => {
  const f = formula(written, testScope());
  if (!f.syntax) throw new Error(`${written}: ${f.problems.map((p) => p.message).join(' ')}`);
  return { f, syntax: f.syntax, steps: arithmeticOf(f.syntax, f, new Map()) };
};
const value = fc.oneof({ weight: 20, arbitrary: number as fc.Arbitrary<Result> }, { weight: 1, arbitrary: fc.constantFrom<Result>(null, Waiting.value, new FormulaError('broken', 'Broken.')) }); // prettier-ignore

test('steps give what the operations give, one by one; a formula gives the same', () => {
  fc.assert(
    fc.property(text, value, value, value, (written, a, b, c) => {
      const { f, syntax, steps } = read(written);
      const values = { a, b, c };
      const expected = plainly(syntax, values);
      const env = testEnv(values);
      if (steps) expect(runArithmetic(steps, 0, steps.steps.length, env)).toBe(expected ?? NaN);
      const given = f.run(env);
      if (expected !== undefined) expect(given).toBe(expected);
      else expect(typeof given).not.toBe('number');
      // the first error goes before waiting, and waiting before empty, of what is read
      if (expected === undefined && given === null) expect([a, b, c]).toContain(null);
    }),
    { numRuns: 20_000 },
  );
}, 60_000);

test('put together, each gives what it gives alone', () => {
  fc.assert(
    fc.property(fc.array(text, { minLength: 1, maxLength: 8 }), number, number, number, (texts, a, b, c) => {
      const all = texts.map((t) => read(t).steps);
      const env = testEnv({ a, b, c });
      const one = together(all);
      all.forEach((steps, i) => {
        if (!steps) expect(one.from[i]).toBe(-1);
        else expect(runArithmetic(one, one.from[i]!, one.to[i]!, env)).toBe(runArithmetic(steps, 0, steps.steps.length, env));
      });
    }),
    { numRuns: 500 },
  );
});

test.each([
  ['a * 0.999 + 1', true],
  ['(a - b) * -(c + 2)', true],
  ['a / b', true],
  ['a', false],
  ['-a', false],
  ['ROUND(a * 3, 2) / b', true],
  ['INT(a)', true],
  ['ROUND(a, b)', false],
  ['ROUND(a, -1)', false],
  ['CEILING(a)', false],
  ['a ^ 2 + 1', false],
  ['a * ABS(b)', false],
  ['IF(a > 1, a + 1, 2)', false],
  ['many.first + 1', false],
])('%s is plain arithmetic: %s', (written, is) => {
  const f = formula(written, testScope());
  expect(f.syntax !== null && arithmeticOf(f.syntax, f, new Map()) !== null).toBe(is);
});

test('a sum inside a function is run as steps too, and says what there is to say where it gives no number', () => {
  const run = (a: Result): Result => formula('ROUND(a * 3 / 7, 2)', testScope()).run(testEnv({ a }));
  expect(run(1.5)).toBe(0.64);
  expect(run(null)).toBe(null);
  expect(run(Waiting.value)).toBe(Waiting.value);
  const none = formula('ABS(a / b)', testScope()).run(testEnv({ a: 1, b: 0 }));
  expect(none instanceof FormulaError && none.code).toBe('divideByZero');
});

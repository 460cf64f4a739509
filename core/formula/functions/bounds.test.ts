import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluate, evaluateText } from '../../testing/scope.ts';
import { FormulaError, MOST_CHARACTERS } from '../errors.ts';
import { FUNCTIONS } from './index.ts';

/*
 * Whatever a person writes, a formula comes to an end, within what it may hold. None of these tests measures time: what ran
 * away before never came back at all.
 */

describe('large arguments', () => {
  test.each([
    ['COMBIN(1E15, 5E14)', 'overflow'],
    ['COMBINA(1E15, 1E15)', 'overflow'],
    ['PERMUT(1E15, 1E14)', 'overflow'],
    ['PERMUTATIONA(1E15, 1E15)', 'overflow'],
    ['MULTINOMIAL(1E15, 1E15, 1E15)', 'overflow'],
    ['FACTDOUBLE(1E15)', 'overflow'],
    ['FACT(1E15)', 'overflow'],
    ['LCM(1E300, 9.87654321987654E250)', 'overflow'],
    ['10^400', 'overflow'],
    ['2.5^1E15', 'overflow'],
    ['REPT("ab", 1E300)', 'tooMuch'],
    ['DEC2BIN(1, 1E9)', 'badArgument'],
    ['DEC2HEX(1, -1)', 'badArgument'],
    ['TIME(1E300, 0, 0)', 'overflow'],
    ['WORKDAY(DATE(2026, 1, 1), 1E9)', 'tooMuch'],
    ['DATE(2026, 1E300, 1)', 'overflow'],
    ['EDATE(DATE(2026, 1, 1), 1E300)', 'overflow'],
    ['UNICHAR(57343.5)', 'badArgument'],
    ['TEXT(1, REPT("0", 1000))', 'badArgument'],
    ['DECIMAL(REPT("1", 5000), 2)', 'overflow'],
  ])('%s is refused: %s', (formula, code) => {
    expect(evaluateText(formula)).toBe(`error: ${code}`);
  });

  test.each([
    ['DB(1E6, 1E5, 1E12, 1E12)', 'a depreciation over 10^12 periods'],
    ['DDB(1E6, 1E5, 1E12, 1E12)', 'a declining one'],
    ['COMBIN(1E15, 3)', 'few out of many'],
    ['BASE(1E300, 2)', 'a long number to base 2'],
  ])('%s comes to an end: %s', (formula) => {
    expect(evaluate(formula)).not.toBeInstanceOf(FormulaError);
  });

  test('depreciation by its closed form is that of going year by year', () => {
    const byYear = (cost: number, salvage: number, life: number, period: number, months: number): number => {
      const rate = Math.round((1 - (salvage / cost) ** (1 / life)) * 1000) / 1000;
      let lost = 0;
      let now = 0;
      for (let i = 1; i <= period; i++) {
        now = i === 1 ? (cost * rate * months) / 12 : i > life ? ((cost - lost) * rate * (12 - months)) / 12 : (cost - lost) * rate;
        lost += now;
      }
      return now;
    };
    const declining = (cost: number, salvage: number, life: number, period: number, factor: number): number => {
      let value = cost;
      let lost = 0;
      for (let i = 1; i <= period; i++) {
        lost = Math.max(0, Math.min((value * factor) / life, value - salvage));
        value -= lost;
      }
      return lost;
    };
    const amount = fc.integer({ min: 1, max: 100_000 });
    fc.assert(
      fc.property(amount, amount, fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 12 }), (a, b, life, months) => {
        const [cost, salvage] = [Math.max(a, b), Math.min(a, b)];
        for (let period = 1; period <= life; period++) {
          expect(evaluate(`DB(${cost}, ${salvage}, ${life}, ${period}, ${months})`)).toBeCloseTo(
            byYear(cost, salvage, life, period, months),
            6,
          );
          expect(evaluate(`DDB(${cost}, ${salvage}, ${life}, ${period}, 2)`)).toBeCloseTo(declining(cost, salvage, life, period, 2), 6);
        }
      }),
      { numRuns: 200 },
    );
  });
});

describe('long texts', () => {
  const long = (n: number): string => `REPT("a", ${n})`;
  test.each([
    [`SUBSTITUTE(${long(50_000)}, "a", ${long(1000)})`],
    [`TEXTJOIN(${long(1000)}, TRUE, ${Array.from({ length: 200 }, () => '"x"').join(', ')})`],
    [`${long(60_000)} & ${long(60_000)}`],
    [`CONCATENATE(${long(60_000)}, ${long(60_000)})`],
    [`CONCAT(${long(60_000)}, ${long(60_000)})`],
    [`REPLACE(${long(60_000)}, 1, 0, ${long(60_000)})`],
  ])('%s is refused before it is built', (formula) => {
    expect(evaluateText(formula)).toBe('error: tooMuch');
  });

  test('a text is found in a long one, and missed in a long one, at once', () => {
    expect(evaluate(`FIND("b", ${long(99_999)} & "b")`)).toBe(100_000);
    expect(evaluateText(`FIND(${long(50_000)} & "b", ${long(MOST_CHARACTERS)})`)).toBe('error: notFound');
    expect(evaluateText(`SEARCH("*b" & ${long(50_000)}, ${long(MOST_CHARACTERS)})`)).toBe('error: notFound');
    expect(evaluate(`SEARCH("a*b", ${long(99_999)} & "B")`)).toBe(1);
    // places that must be tried one by one are tried up to a bound
    expect(evaluateText(`SEARCH(${long(50_000)} & "?b", ${long(MOST_CHARACTERS)})`)).toBe('error: tooMuch');
  });

  test('what does not spell a number is told at once, however long', () => {
    expect(evaluateText(`VALUE(REPT("1", 99999) & "x")`)).toBe('error: badArgument');
    expect(evaluateText(`NUMBERVALUE(REPT("%", 99999) & "x")`)).toBe('error: badArgument');
    expect(evaluateText(`NUMBERVALUE("12", "", "")`)).toBe('12');
  });
});

test('places are counted in characters, also beyond the basic plane and where folding makes two letters of one', () => {
  expect(evaluate('FIND("b", "😀😀b")')).toBe(3);
  expect(evaluate('FIND("b", "😀b😀b", 3)')).toBe(4);
  expect(evaluate('SEARCH("b", "😀ßeb")')).toBe(4);
  expect(evaluate('SEARCH("É", "cafe" & UNICHAR(769))')).toBe(4);
  expect(evaluateText('ISERROR(FIND("x", "abc", 9))')).toBe('TRUE');
});

test('no function throws, and none gives NaN or Infinity, whatever it is called with', () => {
  const argument = fc.oneof(
    fc.constantFrom('0', '-1', '1', '0.5', '-0.5', '1E15', '-1E15', '1E300', '-1E300', '1E-300', '9.99999999999999E307', '125^(1/3)'),
    fc.constantFrom('""', '"a"', '"*?~"', '"1,2.3%"', 'REPT("ab", 4000)', '"2026-03-01"', '"[h]:mm;;"', '"{"', 'UNICHAR(769)'),
    fc.constantFrom('TRUE', 'EMPTY()', 'DATE(1, 1, 1)', 'DATE(9999, 12, 31)', 'NOW()', 'TIME(9, 30, 0)', '1 / 0'),
    fc.constantFrom('JOIN(1, 2, 1E300)', 'JOIN("a", "b")', 'JOIN(EMPTY())', 'JOIN(DATE(2026, 3, 1))', 'JOIN(0, 0)', 'word', 'species'),
  );
  let ran = 0;
  fc.assert(
    fc.property(fc.constantFrom(...FUNCTIONS.map((f) => f.name)), fc.array(argument, { maxLength: 5 }), (name, args) => {
      const result = evaluate(`${name}(${args.join(', ')})`);
      if (typeof result === 'number' && !Number.isFinite(result)) throw new Error(`${name}(${args.join(', ')}) gives ${result}`);
      // an exception of ours would be told as "broken"
      if (result instanceof FormulaError && result.code === 'broken') throw new Error(`${name}(${args.join(', ')}): ${result.message}`);
      if (typeof result === 'string' && result.length > 3 * MOST_CHARACTERS) throw new Error(`${name} made ${result.length} characters`);
      ran++;
    }),
    { numRuns: 20_000 },
  );
  expect(ran).toBeGreaterThan(10_000);
});

test('lists of any length are opened without exhausting the stack; beyond the bound it is said', () => {
  expect(evaluate('SUM(many)', { many: Array.from({ length: 90_000 }, () => 1) })).toBe(90_000);
  for (const f of ['MAX', 'COUNT', 'MODE', 'SORT', 'UNIQUE'])
    expect(evaluate(`COUNTA(${f}(many))`, { many: Array.from({ length: 90_000 }, (_, i) => i % 7) }), f).not.toBeInstanceOf(FormulaError);
  expect(evaluate('SUM(many)', { many: Array.from({ length: 100_001 }, () => 1) })).toMatchObject({ code: 'tooMuch' });
});

import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateText, testScope } from '../testing/scope.ts';
import { formula } from './formula.ts';
import { YESNO } from '../values/typing.ts';

const doubts = (text: string) => formula(text, testScope(), YESNO).problems;

describe('conditions that no value meets', () => {
  test.each([
    ['a > 5 AND a < 3', 'Never true: “a > 5” and “a < 3” cannot hold together.'],
    ['a >= 5 AND yes AND 5 > a', 'Never true: “a >= 5” and “5 > a” cannot hold together.'],
    ['word = "wet" AND word = "dry"', 'Never true: “word = "wet"” and “word = "dry"” cannot hold together.'],
    ['word IN ("wet", "dry") AND word = "moist"', 'Never true: “word IN ("wet", "dry")” and “word = "moist"” cannot hold together.'],
    ['yes AND NOT yes', 'Never true: “yes” and “NOT yes” cannot hold together.'],
    ['ISBLANK(a) AND a > 1', 'Never true: “ISBLANK(a)” and “a > 1” cannot hold together.'],
    ['a BETWEEN 1 AND 3 AND a > 3', 'Never true: “a BETWEEN 1 AND 3” and “a > 3” cannot hold together.'],
    ['a IN (1, 2) AND a <> 1 AND a <> 2', 'Never true: “a IN (1, 2)”, “a <> 1” and “a <> 2” cannot hold together.'],
    [
      'species.storage_c > 5 AND b > 1 AND species.storage_c < 5',
      'Never true: “species.storage_c > 5” and “species.storage_c < 5” cannot hold together.',
    ],
    ['a > 5 AND (a < 3 OR a = 4)', 'Never true: nothing that “a < 3 OR a = 4” allows goes with “a > 5”.'],
    ['IF(a > 5 AND a < 3, TRUE, FALSE)', 'Never true: “a > 5” and “a < 3” cannot hold together.'],
    ['1 > 2', 'Never true: “1 > 2” compares constants.'],
    ['a > 1 AND FALSE', 'Never true: “FALSE” stands in it.'],
    ['FALSE OR a > 1', '“FALSE” says nothing here: take it out.'],
  ])('%s', (text, message) => {
    expect(doubts(text)).toEqual([expect.objectContaining({ code: 'neverTrue', severity: 'warning', message })]);
  });

  test('“is A and is B” is mended to “is A or is B”', () => {
    const text = 'word = "wet" AND word = "dry"';
    const [fix] = doubts(text)[0]!.fixes;
    expect(text.slice(0, fix!.from) + fix!.insert + text.slice(fix!.to)).toBe('word = "wet" OR word = "dry"');
  });
});

describe('conditions that every value meets', () => {
  test.each([
    ['TRUE OR a > 1', 'Always true: “TRUE” stands in it.'],
    ['a > 1 AND (TRUE)', '“TRUE” says nothing here: take it out.'],
    ['a < 5 OR a >= 5', 'Always true: “a < 5 OR a >= 5” holds for every value of a; only an empty one fails it.'],
    [
      'word <> "wet" OR word <> "dry"',
      'Always true: “word <> "wet" OR word <> "dry"” holds for every value of word; only an empty one fails it.',
    ],
    ['yes OR b > 1 OR NOT yes', 'Always true: “yes OR b > 1 OR NOT yes” holds for every value of yes.'],
    ['"a" = "A"', 'Always true: “"a" = "A"” compares constants.'],
  ])('%s', (text, message) => {
    expect(doubts(text)).toEqual([expect.objectContaining({ code: 'alwaysTrue', severity: 'warning', message })]);
  });
});

test.each([
  'TRUE',
  'a > 3 AND a < 5',
  'a >= 5 AND a <= 5',
  'a < 5 OR a > 5',
  'a > 5 AND b < 3',
  'word = "wet" OR word = "dry"',
  'ISBLANK(a) OR a > 1',
  // who asks whether it is empty means the empty one
  'NOT(ISBLANK(a)) OR yes',
  'b > 1 OR NOT ISBLANK(a)',
  'TRUE',
  'FALSE',
  'NOT (a > 5) AND a < 3',
  'a > 5 AND (a < 3 OR b = 4)',
  'LEN(word) > 5 AND LEN(word) < 3 OR yes'.replace(' OR yes', ''),
])('nothing is said of %s', (text) => expect(doubts(text)).toEqual([]));

const value = fc.integer({ min: 0, max: 3 });
const atom = fc.oneof(
  fc.tuple(fc.constantFrom('a', 'b'), fc.constantFrom('=', '<>', '<', '<=', '>', '>='), value).map(([n, o, v]) => `${n} ${o} ${v}`),
  fc.tuple(fc.constantFrom('a', 'b'), fc.constantFrom('=', '<', '>='), value).map(([n, o, v]) => `${v} ${o} ${n}`),
  fc.tuple(fc.constantFrom('a', 'b'), fc.array(value, { minLength: 1, maxLength: 3 })).map(([n, v]) => `${n} IN (${v.join(', ')})`),
  fc.tuple(fc.constantFrom('a', 'b'), value, value).map(([n, l, h]) => `${n} BETWEEN ${l} AND ${h}`),
  fc.constantFrom('a', 'b').map((n) => `ISBLANK(${n})`),
  fc.constantFrom('yes', 'NOT yes'),
);
const denied = fc.tuple(fc.boolean(), atom).map(([no, a]) => (no ? `NOT (${a})` : a));
const joined = (operator: string, of: fc.Arbitrary<string>) =>
  fc.array(of, { minLength: 2, maxLength: 4 }).map((parts) => parts.map((p) => `(${p})`).join(` ${operator} `));
const condition = fc.oneof(joined('AND', denied), joined('OR', denied), joined('AND', fc.oneof(denied, joined('OR', denied))));

test('what is called never true is true for nothing; what is called always true fails for something empty at most', () => {
  const numbers = [null, -1, 0, 1, 2, 3, 1.5, 9];
  let said = 0;
  fc.assert(
    fc.property(condition, (text) => {
      // a warning about the whole condition, not about an inner part
      const whole = formula(text, testScope(), YESNO);
      expect(whole.problems.filter((p) => p.severity === 'error')).toEqual([]);
      const [doubt] = whole.problems;
      const never = doubt?.code === 'neverTrue' && !text.includes('OR');
      const always = doubt?.code === 'alwaysTrue' && !text.includes(' AND (');
      if (!never && !always) return;
      said++;
      for (const a of numbers)
        for (const b of numbers)
          for (const yes of [null, true, false]) {
            const outcome = evaluateText(text, { a, b, yes });
            if (never) expect(outcome).not.toBe('TRUE');
            else if (a !== null && b !== null && yes !== null) expect(outcome).toBe('TRUE');
          }
    }),
    { numRuns: 600 },
  );
  expect(said).toBeGreaterThan(50);
});

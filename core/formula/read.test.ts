import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MAX_DEPTH, parseByGrammar, parseFormula } from './parse.ts';
import { readWell } from './read.ts';

/* What the quick reader reads is what the grammar reads: texts made by the grammar’s own rules, and any others. */

const word = fc.constantFrom('a', 'species', 'grams_2', 'naïve', '数', '_x', 'ando', 'Inner', 'not_', 'TRUEST', 'e5', 'x𝒳', 'or1');
const space = fc.constantFrom('', '', '', ' ', '  ', '\n', '\t', '\u00a0', '\u2003');
const number = fc.oneof(
  fc.constantFrom('0', '7', '1.5', '.25', '12e3', '1E-2', '3.14e+2', '0.1000', '99999999999999999999', '1.', '1e', '2.5.1', '1.a', '5x'),
  fc.double({ min: 0, max: 1e9, noNaN: true }).map(String),
);
const text = fc.constantFrom('""', '"a"', '"a""b"', '"(, AND"', '"""', '"é\n"');
const boolean = fc.constantFrom('TRUE', 'false', 'True()', 'FALSE ( )');
const property = fc.constantFrom('b', 'AND', 'or', 'in', 'NOT', 'true', 'Between', 'name2');
const operator = fc.constantFrom('+', '-', '*', '/', '^', '&', '=', '<>', '<', '<=', '>', '>=', ' AND ', ' or ', ' Or ', '%', '/*', '==');
const written = fc.letrec<Record<'formula', string>>((tie) => ({
  formula: fc.oneof(
    { maxDepth: 5, withCrossShrink: true },
    word, number, text, boolean,
    fc.tuple(tie('formula'), space, operator, space, tie('formula')).map((p) => p.join('')),
    fc.tuple(space, fc.constantFrom('-', '+', 'NOT ', 'not', '(', ' /* why */ '), tie('formula'), fc.constantFrom('', '', ')', '%', '%%')).map((p) => p.join('')),
    fc.tuple(tie('formula'), space).map(([f, s]) => `(${s}${f}${s})`),
    fc.tuple(tie('formula'), property).map(([f, p]) => `${f}.${p}`),
    fc.tuple(fc.constantFrom('SUM', 'if', 'AND', 'OR', 'NOT', 'not', 'IN', 'x'), space, fc.array(fc.tuple(fc.constantFrom('', '', 'label: ', 'label :', 'and:'), tie('formula')).map((p) => p.join('')), { maxLength: 3 }), fc.constantFrom(',', ';', ', ')).map(([name, s, args, comma]) => `${name}${s}(${s}${args.join(comma)})`),
    fc.tuple(tie('formula'), fc.array(tie('formula'), { maxLength: 3 })).map(([f, l]) => `${f} IN (${l.join(', ')})`),
    fc.tuple(tie('formula'), tie('formula'), tie('formula')).map(([f, a, b]) => `${f} between ${a} AND ${b}`),
  ),
})).formula; // prettier-ignore

/** Where the quick reader is sure of a text, the grammar must give the same; gives whether it was sure. */
function agree(source: string): boolean {
  const quick = readWell(source, MAX_DEPTH);
  if (quick === null) return false;
  const byGrammar = parseByGrammar(source);
  expect(byGrammar.problems, source).toEqual([]);
  expect(quick, source).toEqual(byGrammar.syntax);
  return true;
}

describe('the quick reader', () => {
  test('reads formulas as the grammar does', () => {
    let sure = 0;
    fc.assert(
      fc.property(written, (source) => void (agree(source) && sure++)),
      { numRuns: 6000 },
    );
    // it is there for nearly all that is written as it should be
    expect(sure).toBeGreaterThan(1200);
  });
  test('any text at all, and pieces of formulas in any order', () => {
    const pieces = fc.array(fc.oneof(word, number, text, operator, property, space, fc.constantFrom('(', ')', ',', ';', '.', ':', ' IN ', ' BETWEEN ', 'NOT', '\v', '"', '\ud800')), { maxLength: 12 }).map((p) => p.join('')); // prettier-ignore
    fc.assert(
      fc.property(fc.oneof(pieces, fc.string({ unit: 'binary', maxLength: 20 })), (source) => void agree(source)),
      { numRuns: 6000 },
    );
  });
  test.each([
    'SUM(lots, grams * price) * 1.19 - discount / 100',
    'IF(species.storage_c < -18 AND NOT protected, "freezer", COALESCE(room.name, "shelf"))',
    'site.region.country = "GB" AND status IN ("released", "held")',
    'grams BETWEEN 0.5 AND 12e3',
    'NOT(a) = b',
    'LOOKUP(prices, price, where: species = this.species; sort: -price)',
    '-2 ^ 2 % + +x',
    'a = b = c <> d',
    '"🌱" & "\ud83c\udf31"',
  ])('is sure of %s', (source) => expect(agree(source)).toBe(true));
  test.each([
    'a AND b OR c',
    'a /* why */ + 1',
    'a +',
    '1e',
    '(a',
    'a)',
    'a b',
    '9e999',
    '"a',
    'x.true',
    "'a'",
    'a == b',
    'and + 1',
    '"\ud800"""',
  ])('leaves %s to the grammar', (source) => expect(readWell(source, MAX_DEPTH)).toBeNull());
  test('depth is counted as the grammar’s reader counts it, and no text exhausts the stack', () => {
    const chain = (n: number): string => Array.from({ length: n + 1 }, (_, i) => `x${i}`).join(' + ');
    for (const [deep, source] of [
      [MAX_DEPTH, chain(MAX_DEPTH)],
      [MAX_DEPTH + 1, chain(MAX_DEPTH + 1)],
      [MAX_DEPTH, `${'('.repeat(MAX_DEPTH)}x${')'.repeat(MAX_DEPTH)}`],
      [MAX_DEPTH + 1, `${'('.repeat(MAX_DEPTH + 1)}x${')'.repeat(MAX_DEPTH + 1)}`],
      [MAX_DEPTH, `${'-'.repeat(MAX_DEPTH)}x`],
      [MAX_DEPTH + 1, `${'NOT '.repeat(MAX_DEPTH + 1)}x`],
      [MAX_DEPTH, `x${'.y'.repeat(MAX_DEPTH)}`],
      [MAX_DEPTH + 1, `x${'%'.repeat(MAX_DEPTH + 1)}`],
    ] as const) {
      expect(agree(source), source.slice(0, 20)).toBe(deep <= MAX_DEPTH);
      expect(parseFormula(source).syntax === null, source.slice(0, 20)).toBe(deep > MAX_DEPTH);
    }
    for (const one of ['(', '-', 'NOT ', 'f(', 'a IN (', 'a.', 'a+']) expect(parseFormula(one.repeat(20_000 / one.length)).syntax).toBeNull(); // prettier-ignore
  });
});

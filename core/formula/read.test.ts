import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { byGrammar } from '../testing/byGrammar.ts';
import { MAX_DEPTH, parseFormula } from './parse.ts';
import { readText, Unread } from './read.ts';

/* What is read is what the grammar reads, by which the editor colours: texts made by the grammar’s own rules, and any others. */

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

/** Both read a text, as the same tree, or neither does; gives whether they do. */
function agree(source: string): boolean {
  const expected = byGrammar(source);
  // the grammar’s tables say of half a letter now this, now that
  const half = /\p{Surrogate}/u.test(source);
  try {
    const { syntax } = readText(source, MAX_DEPTH);
    if (!half) expect(syntax, source).toEqual(expected);
    return true;
  } catch (e) {
    if (!(e instanceof Unread)) throw e;
    if (!half) expect(expected, `${source}: breaks off at ${e.from}`).toBeNull();
    expect(e.from).toBeLessThanOrEqual(source.length);
    return false;
  }
}

describe('the reader of formulas', () => {
  test('reads what the grammar reads, as the same tree', () => {
    let read = 0;
    fc.assert(
      fc.property(written, (source) => void (agree(source) && read++)),
      { numRuns: 6000 },
    );
    expect(read).toBeGreaterThan(1200);
  });
  test('any text at all, and pieces of formulas in any order', () => {
    const pieces = fc.array(fc.oneof(word, number, text, operator, property, space, fc.constantFrom('(', ')', ',', ';', '.', ':', ' IN ', ' BETWEEN ', 'NOT', '\v', '"', '/*', '*/', '\ud800')), { maxLength: 12 }).map((p) => p.join('')); // prettier-ignore
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
    'a /* why */ + 1 /* and * so / on */',
    'NOT /* no call */ (a)',
    'f /* a call */ (x /* a label */ : 1)',
    'a AND b OR c',
    'x.true.Between',
    '9e999',
    'x𝒳 + 1.a',
    'x.not',
  ])('reads %s', (source) => expect(agree(source)).toBe(true));
  test.each([
    ['a +', 3, 3],
    ['1e', 1, 2],
    ['1e+', 1, 2],
    ['(a', 2, 2],
    ['a)', 1, 2],
    ['a bc', 2, 4],
    ['a "b c"', 2, 7],
    ['"a', 0, 2],
    ['/* nothing */', 13, 13],
    ["'a'", 0, 1],
    ['a == b', 3, 4],
    ['and + 1', 0, 3],
    ['a IN 3', 5, 6],
    ['a BETWEEN 1 OR 2', 12, 14],
    ['f(and: 1)', 2, 5],
    ['TRUE(1)', 5, 6],
    ['a /* why', 3, 4],
    ['x\ud800', 1, 2],
  ])('breaks off in %s where that shows', (source, from, to) => {
    expect(agree(source)).toBe(false);
    expect(() => readText(source, MAX_DEPTH)).toThrow(expect.objectContaining({ reason: 'unexpected', from, to }));
  });
  test('nodes and brackets lie in each other as deep as is allowed, and no text exhausts the stack', () => {
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
      expect(parseFormula(source).syntax === null, source.slice(0, 20)).toBe(deep > MAX_DEPTH);
    }
    for (const one of ['(', '-', 'NOT ', 'f(', 'a IN (', 'a.', 'a+']) expect(parseFormula(one.repeat(20_000 / one.length)).syntax).toBeNull(); // prettier-ignore
  });
});

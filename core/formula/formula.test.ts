import { readFileSync } from 'node:fs';
import { buildParserFile } from '@lezer/generator';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateText, testScope } from '../testing/scope.ts';
import { formula } from './formula.ts';
import { MAX_DEPTH, MAX_LENGTH, parseFormula } from './parse.ts';
import { printSyntax } from './print.ts';
import type { BinaryOperator, Syntax } from './syntax.ts';

const problemsOf = (text: string) => formula(text, testScope()).problems;
const messageOf = (text: string) => problemsOf(text)[0]?.message ?? 'no problem';

test('the committed parser is built from the grammar', () => {
  const at = new URL('./grammar/', import.meta.url);
  const grammar = readFileSync(new URL('formula.grammar', at), 'utf8');
  const built = buildParserFile(grammar, { moduleStyle: 'es' });
  const strip = (s: string): string => s.replace(/^import.*$/gm, '').trim();
  expect(strip(readFileSync(new URL('parser.js', at), 'utf8'))).toBe(strip(built.parser));
});

describe('operators', () => {
  test.each([
    ['1 + 2 * 3', '7'],
    ['-2 ^ 2', '4'],
    ['2 ^ 3 ^ 2', '64'],
    ['50% * 10', '5'],
    ['10 - 2 - 3', '5'],
    ['1 / 4 * 2', '0.5'],
    ['"a" & 1 + 2', 'a3'],
    ['NOT(TRUE) = FALSE', 'TRUE'],
    ['NOT 1 = 2', 'TRUE'],
    ['TRUE AND NOT FALSE', 'TRUE'],
    ['3 BETWEEN 1 AND 5 AND TRUE', 'TRUE'],
    ['2 IN (1, 2; 3)', 'TRUE'],
    ['"WET" = "wet"', 'TRUE'],
    ['"wet " = "wet"', 'FALSE'],
    ['0.1 + 0.2 = 0.3', 'TRUE'],
    ['DATE(2026, 1, 31) + 1', '2026-02-01'],
    ['DATE(2026, 3, 1) - DATE(2026, 2, 1)', '28'],
    ['1 / 0', 'error: divideByZero'],
    ['9E307 * 100', 'error: overflow'],
    ['1 /* one */ + /* two */ 2', '3'],
    ['"say ""so"""', 'say "so"'],
    ['if(true, 1, 2)', '1'],
  ])('%s gives %s', (text, expected) => {
    expect(evaluateText(text)).toBe(expected);
  });

  test('empty: arithmetic and joining give empty, comparisons are false, AND and OR treat it as not true', () => {
    expect(evaluateText('a + 1')).toBe('empty');
    expect(evaluateText('word & "x"')).toBe('empty');
    for (const op of ['=', '<>', '<', '<=', '>', '>=']) expect(evaluateText(`a ${op} 1`)).toBe('FALSE');
    expect(evaluateText('yes AND TRUE')).toBe('FALSE');
    expect(evaluateText('yes OR TRUE')).toBe('TRUE');
    expect(evaluateText('a IN (1, 2)')).toBe('FALSE');
    expect(evaluateText('NOT yes')).toBe('TRUE');
  });

  test('paths lead through links', () => {
    expect(evaluateText('species.genus.family.name', { species: 100 })).toBe('Fagaceae');
    expect(evaluateText('species.genus.family.name')).toBe('empty');
    expect(evaluateText('me.name')).toBe('Ida Fenn');
    expect(evaluateText('species.genus = genus', { species: 100, genus: 10 })).toBe('TRUE');
  });
});

describe('problems say what, where and how to mend', () => {
  test.each([
    ['a + ', 'Something is missing at the end: a name, a number or a text was expected.'],
    ['(a + 1', 'A closing bracket ) is missing at the end.'],
    ['a + 1)', 'This closing bracket has no opening one.'],
    ['"abc', 'A text is not closed: a second " is missing.'],
    ['speces.name', 'There is no field or name “speces” here. Did you mean species?'],
    ['species.storage', 'Species has no column “storage”. Did you mean storage_c?'],
    ['SUMM(1)', 'There is no function SUMM. Did you mean SUM?'],
    ['ROUND()', 'ROUND(number, [digits]) takes 1 to 2 values; 0 are given.'],
    ['species & "x"', '“species” is a row of Species; a text is needed here; did you mean species.name?'],
    ['word + "x"', '“word” is a text. Texts are joined with &, numbers added with +.'],
    [
      'species = "Quercus robur"',
      '“species” is a row of Species and “"Quercus robur"” is a text: they cannot be compared. Did you mean species.name?',
    ],
    [
      'choice.name = word',
      '“choice” is the row on offer; it can only be used where a list is narrowed, or in the condition of PICK or GATHER.',
    ],
    ['kind = "moist"', '“moist” is not one of the choices.'],
    ['a = EMPTY()', 'A comparison with empty is never true.'],
  ])('%s', (text, message) => {
    expect(messageOf(text)).toBe(message);
  });

  test('AND beside OR asks for brackets and offers both readings, which mean what they say', () => {
    const [mixed] = problemsOf('yes AND a > 1 OR b > 2');
    expect(mixed?.code).toBe('mixedAndOr');
    expect(mixed?.fixes.map((f) => f.insert)).toEqual(['(yes AND a > 1) OR b > 2', 'yes AND (a > 1 OR b > 2)']);
    expect(problemsOf('yes OR a > 1 AND b > 2')[0]?.fixes.map((f) => f.insert)).toEqual([
      'yes OR (a > 1 AND b > 2)',
      '(yes OR a > 1) AND b > 2',
    ]);
    expect(problemsOf('(yes AND a > 1) OR b > 2')).toEqual([]);
  });

  test('too long and too deep are refused with a place, not a crash', () => {
    expect(problemsOf(`1${' + 1'.repeat(MAX_LENGTH)}`)[0]?.code).toBe('tooLong');
    expect(problemsOf('('.repeat(MAX_DEPTH + 1) + '1' + ')'.repeat(MAX_DEPTH + 1))[0]?.code).toBe('tooDeep');
    expect(problemsOf(`1${' + 1'.repeat(MAX_DEPTH + 10)}`)[0]?.code).toBe('tooDeep');
  });

  test('any text at all gives a tree or a problem with a place inside it', () => {
    const pieces = fc.constantFrom(
      'a',
      'species',
      '.',
      '(',
      ')',
      '"',
      '+',
      'AND',
      'NOT',
      'IF(',
      ',',
      '1',
      ' ',
      '<',
      '/*',
      '*/',
      '%',
      'ä',
      '😀',
      '\n',
    );
    fc.assert(
      fc.property(
        fc.array(pieces, { maxLength: 25 }).map((x) => x.join('')),
        (text) => {
          const f = formula(text, testScope());
          for (const p of f.problems) {
            expect(p.from).toBeGreaterThanOrEqual(0);
            expect(p.to).toBeLessThanOrEqual(text.length);
            expect(p.message.length).toBeGreaterThan(10);
          }
          if (!f.syntax) expect(f.problems.length > 0 || /^\s*(\/\*[^]*\*\/\s*)*$/.test(text)).toBe(true);
        },
      ),
      { numRuns: 3000 },
    );
  });
});

const at = { from: 0, to: 0 };
const leaf: fc.Arbitrary<Syntax> = fc.oneof(
  fc.integer({ min: 0, max: 999 }).map((n): Syntax => ({ kind: 'number', ...at, value: n, text: String(n) })),
  fc.string({ maxLength: 4 }).map((value): Syntax => ({ kind: 'text', ...at, value })),
  fc.boolean().map((value): Syntax => ({ kind: 'yesno', ...at, value })),
  fc.constantFrom('a', 'species', 'in_stock', 'Größe').map((name): Syntax => ({ kind: 'name', ...at, name })),
);
const OPERATORS: BinaryOperator[] = ['+', '-', '*', '/', '^', '&', '=', '<>', '<', '<=', '>', '>=', 'AND', 'OR'];
const tree: fc.Arbitrary<Syntax> = fc.letrec<{ node: Syntax }>((tie) => ({
  node: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    leaf,
    fc
      .record({ operator: fc.constantFrom(...OPERATORS), left: tie('node'), right: tie('node') })
      .map((x): Syntax => ({ kind: 'binary', ...at, operatorSpan: at, ...x })),
    fc
      .record({ operator: fc.constantFrom('-', '+', 'NOT'), operand: tie('node') })
      .map((x): Syntax => ({ kind: 'unary', ...at, operator: x.operator as '-', operand: x.operand })),
    tie('node').map((operand): Syntax => ({ kind: 'percent', ...at, operand })),
    tie('node').map((inner): Syntax => ({ kind: 'group', ...at, inner })),
    fc
      .constantFrom('genus', 'name')
      .map((property): Syntax => ({ kind: 'member', ...at, propertySpan: at, property, object: { kind: 'name', ...at, name: 'species' } })),
    fc
      .record({ name: fc.constantFrom('SUM', 'IF', 'AND'), args: fc.array(tie('node'), { maxLength: 3 }) })
      .map(({ name, args }): Syntax => ({ kind: 'call', ...at, nameSpan: at, name, args: args.map((value) => ({ label: null, value })) })),
    fc.record({ item: tie('node'), list: fc.array(tie('node'), { maxLength: 3 }) }).map((x): Syntax => ({ kind: 'in', ...at, ...x })),
    fc.record({ item: tie('node'), low: tie('node'), high: tie('node') }).map((x): Syntax => ({ kind: 'between', ...at, ...x })),
  ),
})).node;

/** The meaning of a tree: brackets opened, NOT one way, places left out. */
function meaning(node: Syntax): unknown {
  switch (node.kind) {
    case 'group':
      return meaning(node.inner);
    case 'unary':
      return node.operator === 'NOT' ? ['NOT', meaning(node.operand)] : [node.operator, meaning(node.operand)];
    case 'call':
      return node.name === 'NOT'
        ? ['NOT', ...node.args.map((a) => meaning(a.value))]
        : [node.name, ...node.args.map((a) => meaning(a.value))];
    case 'binary':
      return [node.operator, meaning(node.left), meaning(node.right)];
    case 'percent':
      return ['%', meaning(node.operand)];
    case 'in':
      return ['in', meaning(node.item), ...node.list.map(meaning)];
    case 'between':
      return ['between', meaning(node.item), meaning(node.low), meaning(node.high)];
    case 'member':
      return ['.', meaning(node.object), node.property];
    case 'name':
      return ['name', node.name];
    default:
      return node.value;
  }
}

describe('printing', () => {
  test('any tree prints to text that means the same', () => {
    fc.assert(
      fc.property(tree, (node) => {
        const text = printSyntax(node);
        const parsed = parseFormula(text);
        expect(parsed.problems, text).toEqual([]);
        expect(meaning(parsed.syntax as Syntax), text).toEqual(meaning(node));
      }),
      { numRuns: 3000 },
    );
  });

  test('what was printed once prints back unchanged', () => {
    fc.assert(
      fc.property(tree, (node) => {
        const once = printSyntax(parseFormula(printSyntax(node)).syntax as Syntax);
        expect(printSyntax(parseFormula(once).syntax as Syntax)).toBe(once);
      }),
      { numRuns: 1000 },
    );
  });

  test('keywords and functions in upper case, semicolons as commas, spaces tidied', () => {
    expect(printSyntax(parseFormula('if( a>1;sum(1 ,2);not(yes) and true )').syntax as Syntax)).toBe(
      'IF(a > 1, SUM(1, 2), NOT(yes) AND TRUE)',
    );
  });
});

import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { formula } from '../formula/formula.ts';
import { withBinding } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import { testEnv, testScope } from '../testing/scope.ts';
import type { Row } from '../values/types.ts';
import { type SentencePart, isFinished, narrowingText, sentencesOf, withComments } from './sentence.ts';

const scope = withBinding(withKin(), { name: 'choice', label: 'choice', type: T.rowOf('species'), source: { kind: 'candidate' } });
/** species with kin: a list of rows of their own table */
function withKin() {
  const plain = testScope();
  const species = plain.tables.get('species')!;
  const columns = new Map(species.columns).set('kin', { key: 'kin', label: 'kin', type: T.listOf(T.rowOf('species')) });
  return { ...plain, tables: new Map(plain.tables).set('species', { ...species, columns }) };
}
const read = (text: string) => sentencesOf(formula(text, scope, T.YESNO));

/** A part in short: column, operator, values; groups as lists that begin with how they are joined. */
const short = (p: SentencePart): unknown =>
  p.kind === 'simple' ? [p.column, `${p.not ? 'not ' : ''}${p.operator}`, ...p.values]
  : p.kind === 'group' ? [`${p.not ? 'not ' : ''}${p.any ? 'any' : 'all'}`, ...p.parts.map(short)]
  : p.kind === 'each' ? [p.column, `${p.of} of, ${p.any ? 'any' : 'all'}`, ...p.parts.map(short)]
  : p.text; // prettier-ignore

describe('a narrowing as sentences', () => {
  test.each([
    ['choice.genus = genus', [['genus', '=', 'genus']]],
    ['genus = choice.genus', [['genus', '=', 'genus']]],
    ['choice = species', [['', '=', 'species']]],
    ['5 < choice.storage_c', [['storage_c', '>', '5']]],
    ['choice.active', [['active', 'isYes']]],
    ['NOT choice.active', [['active', 'isNo']]],
    ['ISBLANK(choice.name) AND NOT(ISBLANK(choice.genus))', [['name', 'isBlank'], ['genus', 'isNotBlank']]],
    ['choice.genus.family = species.genus.family AND (choice.active)', [['genus.family', '=', 'species.genus.family'], ['active', 'isYes']]],
    ['choice.genus = genus AND (choice.active OR choice.storage_c > 0)', [['genus', '=', 'genus'], ['any', ['active', 'isYes'], ['storage_c', '>', '0']]]],
    ['choice.active OR choice.storage_c > 0 OR ISBLANK(choice.name)', [['any', ['active', 'isYes'], ['storage_c', '>', '0'], ['name', 'isBlank']]]],
    ['NOT(choice.active AND choice.storage_c > 0)', [['not all', ['active', 'isYes'], ['storage_c', '>', '0']]]],
    ['choice.name IN ("a", word)', [['name', 'in', '"a"', 'word']]],
    ['NOT(choice.storage_c BETWEEN a AND b)', [['storage_c', 'not between', 'a', 'b']]],
    ['CONTAINSANY(choice.name, word)', [['name', 'contains', 'word']]],
    ['COUNTA(choice.kin) >= 2 AND 3 > COUNTA(choice.kin)', [['kin.#', '>=', '2'], ['kin.#', '<', '3']]],
    ['ANYOF(choice.kin, each.storage_c > 2)', [['kin', 'any of, all', ['storage_c', '>', '2']]]],
    ['NOT(ANYOF(choice.kin, each.active OR each.genus.name = word))', [['kin', 'none of, any', ['active', 'isYes'], ['genus.name', '=', 'word']]]],
    ['ALLOF(choice.kin, NOT(each.active) AND each = species)', [['kin', 'all of, all', ['active', 'isNo'], ['', '=', 'species']]]],
  ])('%s', (text, expected) => {
    expect(read(text).map(short)).toEqual(expected);
  }); // prettier-ignore

  test('what the builder cannot show stays a formula, word for word', () => {
    expect(read('choice.name = UPPER(choice.name)')[0]).toEqual({ kind: 'formula', text: 'choice.name = UPPER(choice.name)' });
    expect(read('NOT(choice.genus = genus)')[0]?.kind, 'with an empty genus this is no <>').toBe('formula');
    expect(read('ANYOF(choice.kin, each.name = choice.name)')[0]?.kind, 'each beside the row on offer').toBe('formula');
    expect(read('NOT(ALLOF(choice.kin, each.active))')[0]?.kind).toBe('formula');
    expect(read('COUNTOF(choice.kin, each.active) > 1')[0]?.kind).toBe('formula');
    expect(read('"choice of many" = choice.name').map(short)).toEqual([['name', '=', '"choice of many"']]);
  });

  test('sentences back to a formula mean the same, and none is no narrowing', () => {
    for (const text of [
      'choice.genus = genus',
      'choice.active AND choice.storage_c <= 5',
      'NOT(choice.active)',
      'NOT(ISBLANK(choice.name))',
      'choice.genus = genus AND (choice.active OR choice.storage_c > 0)',
      'choice.active OR choice.storage_c > 0',
      'NOT(choice.active OR choice.storage_c > 0) AND NOT(choice.name IN ("a", "b"))',
      '(choice.active AND choice.storage_c > 0) OR choice.name = word',
      'ANYOF(choice.kin, each.storage_c > 2 AND (each.active OR each.genus = genus)) AND choice.active',
      'NONEOF(choice.kin, each.active OR each.storage_c > 0) OR COUNTA(choice.kin) < 2',
    ]) {
      expect(narrowingText(read(text))).toBe(text);
    }
    expect(narrowingText([])).toBe(null);
    expect(narrowingText([{ kind: 'group', any: true, not: false, parts: [] }])).toBe(null);
    expect(read('')).toEqual([]);
    expect(read('choice.nosuch = 1')).toEqual([]);
  });

  test('whatever condition is read and written again keeps its meaning for every row', () => {
    const leaf = fc.constantFrom(
      'choice.active', 'choice.storage_c > 2', 'NOT choice.active', 'choice.storage_c BETWEEN a AND 5', 'choice.name IN ("Quercus robur", word)', 'choice.genus = genus', 'CONTAINSANY(choice.name, word)', 'choice.name = UPPER(choice.name)', 'a > 1',
      'ANYOF(choice.kin, each.storage_c > a)', 'ALLOF(choice.kin, each.active OR each.storage_c > 2)', 'NONEOF(choice.kin, NOT(each.active) AND each.storage_c > 0)', 'COUNTA(choice.kin) > 1', 'COUNTOF(choice.kin, each.active) = 1',
    ); // prettier-ignore
    const condition = fc.letrec<{ node: string }>((tie) => ({
      node: fc.oneof(
        { maxDepth: 4 },
        leaf,
        fc.tuple(tie('node'), tie('node')).map(([x, y]) => `(${x}) AND (${y})`),
        fc.tuple(tie('node'), tie('node'), tie('node')).map(([x, y, z]) => `(${x}) OR (${y}) OR (${z})`),
        tie('node').map((x) => `NOT(${x})`),
      ),
    })).node;
    const rows: (Row | null)[] = [1, null].flatMap((n) => ['Quercus robur', 'x', null].map((name) => ({ id: 1, name, active: n === 1, storage_c: n === 1 ? 3 : null, genus: n === 1 ? 10 : 11, kin: n === 1 ? [1, 2] : name === null ? null : [] }))); // prettier-ignore
    fc.assert(
      fc.property(condition, (text) => {
        const before = formula(text, scope, T.YESNO);
        const after = formula(narrowingText(sentencesOf(before)) ?? '', scope, T.YESNO);
        expect(after.problems.filter((p) => p.severity === 'error')).toEqual([]);
        for (const candidate of rows) {
          const env = { ...testEnv({ a: 2, word: 'quercus', genus: 10 }), candidate };
          expect(after.run(env) === true).toBe(before.run(env) === true);
        }
      }),
      { numRuns: 500 },
    );
  });
});

describe('comments', () => {
  test.each([
    ['choice.a = 1 /* why */', 'choice.b = 2', '/* why */ choice.b = 2'],
    ['/* one */ choice.a = 1 AND /* two */ choice.b = 2', 'choice.a = 1', '/* one */ /* two */ choice.a = 1'],
    ['/* kept */ choice.a = 1', '/* kept */ choice.a = 2', '/* kept */ choice.a = 2'],
    ['choice.a = "/* no comment */"', 'choice.b = 2', 'choice.b = 2'],
    ['/* gone with it */ choice.a = 1', '', ''],
    ['choice.a = 1', 'choice.a = 2', 'choice.a = 2'],
  ])('%s changed to %s is %s', (before, after, both) => {
    expect(withComments(before, after)).toBe(both);
  });
});

describe('a condition that is being made', () => {
  const begun: SentencePart = { kind: 'simple', column: 'genus', operator: '=', not: false, values: [] };
  const whole: SentencePart = { kind: 'simple', column: 'active', operator: 'isYes', not: false, values: [] };
  const group = (any: boolean, ...parts: SentencePart[]): SentencePart => ({ kind: 'group', any, not: false, parts });
  test('does not apply until it is finished, nor does a group with nothing finished in it', () => {
    expect(narrowingText([begun])).toBeNull();
    expect(narrowingText([whole, begun, group(true), group(true, begun, group(false, begun))])).toBe('choice.active');
    expect(narrowingText([whole, group(true, begun, whole, { ...begun, values: ['genus'] })])).toBe(
      'choice.active AND (choice.active OR choice.genus = genus)',
    );
    expect(narrowingText([{ ...begun, column: 'storage_c', operator: 'between', values: ['1'] }])).toBeNull();
    expect(isFinished({ ...begun, operator: 'in', values: ['genus'] })).toBe(true);
    const each = (...parts: SentencePart[]): SentencePart => ({ kind: 'each', column: 'kin', of: 'any', any: true, parts });
    expect([narrowingText([each()]), narrowingText([each(begun)])]).toEqual([null, null]);
    expect(narrowingText([each(begun, whole)])).toBe('ANYOF(choice.kin, each.active)');
  });
});

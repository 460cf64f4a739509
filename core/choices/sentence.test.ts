import { describe, expect, test } from 'vitest';
import { formula } from '../formula/formula.ts';
import { withBinding } from '../formula/scope.ts';
import * as T from '../formula/types.ts';
import { testScope } from '../testing/scope.ts';
import { narrowingText, sentencesOf } from './sentence.ts';

const scope = withBinding(testScope(), { name: 'choice', label: 'choice', type: T.rowOf('species'), source: { kind: 'candidate' } });
const read = (text: string) => sentencesOf(formula(text, scope, T.YESNO));

describe('a narrowing as sentences', () => {
  test.each([
    ['choice.genus = genus', [['genus', '=', 'genus']]],
    ['genus = choice.genus', [['genus', '=', 'genus']]],
    ['5 < choice.storage_c', [['storage_c', '>', '5']]],
    ['choice.active', [['active', 'isYes', '']]],
    ['NOT choice.active', [['active', 'isNo', '']]],
    ['ISBLANK(choice.name) AND NOT(ISBLANK(choice.genus))', [['name', 'isBlank', ''], ['genus', 'isNotBlank', '']]],
    ['choice.genus.family = species.genus.family AND (choice.active)', [['genus.family', '=', 'species.genus.family'], ['active', 'isYes', '']]],
  ])('%s', (text, expected) => {
    expect(read(text).map((p) => (p.kind === 'simple' ? [p.column, p.operator, p.value] : p.text))).toEqual(expected);
  }); // prettier-ignore

  test('what the builder cannot show stays a formula, word for word', () => {
    const parts = read('choice.genus = genus AND (choice.active OR choice.storage_c > 0)');
    expect(parts[1]).toEqual({ kind: 'formula', text: '(choice.active OR choice.storage_c > 0)' });
    expect(narrowingText(parts)).toBe('choice.genus = genus AND (choice.active OR choice.storage_c > 0)');
    expect(read('choice.name = UPPER(choice.name)')[0]?.kind).toBe('formula');
    expect(read('"choice of many" = choice.name')[0]).toMatchObject({ kind: 'simple', value: '"choice of many"' });
  });

  test('sentences back to a formula mean the same, and none is no narrowing', () => {
    for (const text of [
      'choice.genus = genus',
      'choice.active AND choice.storage_c <= 5',
      'NOT(choice.active)',
      'NOT(ISBLANK(choice.name))',
    ]) {
      expect(narrowingText(read(text))).toBe(text);
    }
    expect(narrowingText([])).toBe(null);
    expect(read('')).toEqual([]);
    expect(read('choice.nosuch = 1')).toEqual([]);
  });
});

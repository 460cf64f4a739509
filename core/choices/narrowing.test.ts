import { describe, expect, test } from 'vitest';
import { formula } from '../formula/formula.ts';
import { withBinding } from '../formula/scope.ts';
import { testScope } from '../testing/scope.ts';
import * as T from '../values/typing.ts';
import { type Narrowing, narrowingOf } from './narrowing.ts';

const scope = withBinding(testScope(), { name: 'choice', label: 'choice', type: T.rowOf('species'), source: { kind: 'candidate' } });
const narrowing = (text: string): Narrowing => {
  const checked = formula(text, scope, T.YESNO);
  expect(checked.problems.filter((p) => p.severity === 'error')).toEqual([]);
  return narrowingOf(checked);
};
describe('what a condition asks', () => {
  test.each([
    ['choice.genus = genus', true],
    ['choice.active AND choice.storage_c BETWEEN a AND b', true],
    ['choice.name IN (word, "b") OR ISBLANK(choice.genus)', true],
    ['choice.storage_c + a > b', true],
    ['COALESCE(choice.storage_c, 0) > LEN(word)', true],
    // what it leads to may be changed while the rows are not
    ['choice.genus.family = species.genus.family', false],
    ['choice.genus.name = word', false],
    ['CONTAINSANY(choice.name, word)', false],
  ])('%s: of the rows alone %s', (text, alone) => {
    expect(narrowing(text).parts.every((p) => p.asksRowsAlone)).toBe(alone);
  });

  test.each([
    ['choice.active AND choice.storage_c < 5', true],
    ['choice.genus = genus', false],
    ['choice.storage_c < 2 + 3', false],
  ])('%s: fixed %s', (text, fixed) => {
    expect(narrowing(text).isFixed).toBe(fixed);
  });
});

import { describe, expect, test } from 'vitest';
import { formula } from './formula.ts';
import { withBinding } from './scope.ts';
import { conditionWords } from './words.ts';
import * as T from '../values/typing.ts';
import { testScope } from '../testing/scope.ts';

const scope = withBinding(testScope(), { name: 'choice', label: 'choice', type: T.rowOf('species'), source: { kind: 'candidate' } });
function said(text: string, now: Readonly<Record<string, string>> = {}): string {
  const checked = formula(text, scope, T.YESNO);
  expect(checked.problems.filter((p) => p.severity === 'error'), text).toEqual([]);
  return conditionWords(checked.syntax!, { checked, tables: scope.tables, now: (n) => (n.kind === 'name' ? (now[n.name] ?? null) : null) });
} // prettier-ignore

describe('conditions in words', () => {
  test.each([
    ['choice.genus = genus', 'its genus is the entry’s genus'],
    ['genus = choice.genus', 'its genus is the entry’s genus'],
    ['5 < choice.storage_c', 'its storage_c is more than 5'],
    ['choice.active', 'active is yes'],
    ['NOT(choice.active)', 'active is no'],
    ['ISBLANK(choice.name) OR NOT(ISBLANK(choice.genus))', 'its name is empty or its genus is filled'],
    ['choice.active AND (choice.storage_c > 0 OR ISBLANK(choice.name))', 'active is yes and (its storage_c is more than 0 or its name is empty)'],
    ['choice.genus.family = species.genus.family', 'its genus’s family is species’s genus’s family'],
    ['choice.name IN ("a", "b")', 'its name is one of “a”, “b”'],
    ['choice.storage_c BETWEEN 1 AND 5', 'its storage_c is between 1 and 5'],
    ['CONTAINSANY(choice.name, "oak", "beech")', 'its name contains “oak” or “beech”'],
    ['choice.name = me.name', 'its name is the name of the person signed in'],
    ['choice.name = UPPER(choice.name)', 'its name is UPPER(name)'],
  ])('%s', (text, words) => {
    expect(said(text)).toBe(words);
  }); // prettier-ignore

  test('with what a name is now, which is never said of the row on offer', () => {
    expect(said('choice.genus = genus', { genus: 'Quercus', choice: 'nothing' })).toBe('its genus is the entry’s genus (Quercus)');
  });
});

import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { testScope } from '../testing/scope.ts';
import { formula } from './formula.ts';
import { namesIn, withNames } from './names.ts';

const named = (text: string): string[] =>
  namesIn(formula(text, testScope()))
    .map((n) => `${n.kind} ${text.slice(n.from, n.to)}`)
    .sort();

describe('the words of a formula', () => {
  test.each([
    ['a + b', ['field a', 'field b']],
    ['species.genus.family', ['column family', 'column genus', 'field species']],
    ['ROUND(a, 2)', ['field a', 'function ROUND']],
    ['"a" & species.name', ['column name', 'field species']],
    ['1 + 2', []],
    ['nothing + a', ['field a']],
    ['ROUND(a, "x") + b', ['field a', 'field b', 'function ROUND']],
    ['a +', []],
  ])('%s', (text, words) => expect(named(text)).toEqual(words));

  test('each stands where it says, and has a name that can be exchanged for another', () => {
    const texts = [
      'a + b * a',
      'IF(species.active, species.storage_c, a)',
      '( a )',
      'NOT ISBLANK(species.genus)',
      'a BETWEEN b AND a',
      'a IN (b, 3)',
    ];
    fc.assert(
      fc.property(fc.constantFrom(...texts), (text) => {
        const names = namesIn(formula(text, testScope()));
        expect(withNames(text, names, () => null)).toBe(text);
        const marked = withNames(text, names, (n) => (n.kind === 'function' ? null : 'x_y'));
        // what was no name is untouched
        expect(marked.split('x_y').join('')).toBe(names.filter((n) => n.kind !== 'function').sort((a, b) => b.from - a.from).reduce((t, n) => t.slice(0, n.from) + t.slice(n.to), text)); // prettier-ignore
      }),
    );
  });
  test('a name in several holes of a text is found in each', () => {
    const text = 'TEMPLATE("a: {a}, again {a, number}; ""a"" {species.name} {b, plural, one {one {a}} other {many}}")';
    const names = namesIn(formula(text, testScope()));
    expect(withNames(text, names, (n) => (n.kind === 'field' && text.slice(n.from, n.to) === 'a' ? 'zz' : null))).toBe(
      'TEMPLATE("a: {zz}, again {zz, number}; ""a"" {species.name} {b, plural, one {one {zz}} other {many}}")',
    );
  });
});

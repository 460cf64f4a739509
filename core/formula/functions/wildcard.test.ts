import fc from 'fast-check';
import { expect, test } from 'vitest';
import { wildcardMatch } from './wildcard.ts';

test.each([
  ['*', '', true],
  ['?', '', false],
  ['w?t*', 'Wet heath', true],
  ['wet', 'Wet heath', false],
  ['*heath', 'wet heath', true],
  ['a*b*c', 'aXbXbc', true],
  ['a*b*c', 'aXbX', false],
  ['~*', '*', true],
  ['~*', 'x', false],
  ['~?~~', '?~', true],
  ['😀?', '😀é', true],
])('%s against %j', (pattern, text, expected) => {
  expect(wildcardMatch(pattern, text)).toBe(expected);
});

test('it agrees with a plain definition by recursion', () => {
  const slow = (p: string, t: string): boolean => {
    if (p === '') return t === '';
    if (p[0] === '*') return slow(p.slice(1), t) || (t !== '' && slow(p, t.slice(1)));
    return t !== '' && (p[0] === '?' || p[0] === t[0]) && slow(p.slice(1), t.slice(1));
  };
  const signs = (chars: string[]) => fc.array(fc.constantFrom(...chars), { maxLength: 8 }).map((x) => x.join(''));
  fc.assert(
    fc.property(signs(['A', 'B', '*', '?']), signs(['A', 'B', 'C']), (pattern, text) => {
      expect(wildcardMatch(pattern, text)).toBe(slow(pattern, text));
    }),
    { numRuns: 3000 },
  );
});

test('a pattern made to run away does not', () => {
  expect(wildcardMatch(`${'*a'.repeat(200)}b`, 'a'.repeat(5000))).toBe(false);
});

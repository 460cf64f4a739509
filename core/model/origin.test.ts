import { expect, test } from 'vitest';
import { firstOrigin, isPersons, parseOrigin } from './origin.ts';

test('what a person decided stays a person’s however often it was saved', () => {
  expect(isPersons({ kind: 'typed' })).toBe(true);
  expect(isPersons({ kind: 'emptied' })).toBe(true);
  expect(isPersons({ kind: 'stored', was: { kind: 'stored', was: { kind: 'chosen' } } })).toBe(true);
  expect(isPersons({ kind: 'stored', was: { kind: 'prefill' } })).toBe(false);
  expect(isPersons({ kind: 'filledUp', from: 'species' })).toBe(false);
  expect(firstOrigin({ kind: 'stored', was: { kind: 'stored', was: { kind: 'default' } } })).toEqual({ kind: 'default' });
});

test('an origin that cannot be read counts as typed, so that nothing overwrites the value', () => {
  for (const odd of [null, 5, 'prefill', {}, { kind: 'magic' }, []]) expect(parseOrigin(odd)).toEqual({ kind: 'typed' });
  expect(parseOrigin({ kind: 'filledUp', from: 'genus' })).toEqual({ kind: 'filledUp', from: 'genus' });
});

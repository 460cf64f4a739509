import { expect, test } from 'vitest';
import { evaluateText } from '../../testing/scope.ts';
import { FUNCTIONS } from './index.ts';

test('every example in the declarations gives the result it claims', () => {
  const wrong: string[] = [];
  let ran = 0;
  for (const f of FUNCTIONS) {
    expect(f.examples.length, f.name).toBeGreaterThan(0);
    for (const [text, expected] of f.examples) {
      ran++;
      const got = evaluateText(text);
      if (got !== expected) wrong.push(`${text}: expected ${expected}, got ${got}`);
    }
  }
  expect(wrong).toEqual([]);
  expect(ran).toBeGreaterThan(100);
});

test('names are unique and signatures readable', () => {
  const names = FUNCTIONS.map((f) => f.name);
  expect(new Set(names).size).toBe(names.length);
  for (const f of FUNCTIONS) expect(f.signature.startsWith(`${f.name}(`)).toBe(true);
});

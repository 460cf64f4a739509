import fc from 'fast-check';
import { expect, test } from 'vitest';
import { composed, foldText, foldWord, hasWords, soughtWords } from './text.ts';

test('what is looked for is found by all of its words, without regard to case, in whatever order', () => {
  const found = (text: string, sought: string): boolean => hasWords(foldText(text), soughtWords(sought));
  expect(found('Marrow Fen, north side', 'north  fen')).toBe(true);
  expect(found('Marrow Fen, north side', 'north south')).toBe(false);
  expect(found('Île aux Chênes', 'chênes île')).toBe(true);
  expect([found('Marrow', ' '), soughtWords(' \t')]).toEqual([true, []]);
});
test('a word that is folded again, and a text that is composed, are what they are the first time', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 80 }), (text) => {
      expect(foldWord(text)).toBe(foldText(text));
      expect(foldWord(text)).toBe(foldText(text));
      expect(composed(text)).toBe(text.normalize('NFC'));
    }),
  );
});

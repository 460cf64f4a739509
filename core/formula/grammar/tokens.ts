import { ExternalTokenizer } from '@lezer/lr';
import { isDigit, isLetter, isSpace } from './characters.ts';
import { And, Between, False, In, Not, NotName, Or, True } from './parser.terms.js';

const KEYWORDS: Readonly<Record<string, number>> = {
  AND: And,
  OR: Or,
  IN: In,
  BETWEEN: Between,
  TRUE: True,
  FALSE: False,
};

/** Keywords in any case; -1 leaves the word an identifier (what Lezer's external specializers expect). */
export function keyword(word: string): number {
  return KEYWORDS[word.toUpperCase()] ?? -1;
}

const isWordPart = (code: number): boolean => isLetter(code) || isDigit(code);

/**
 * NOT is an operator (`NOT a`) and a function (`NOT(a)`). One token of look-ahead tells them apart,
 * so that `NOT(a) = b` means what it does in a spreadsheet.
 */
export const notToken = new ExternalTokenizer((input) => {
  const letters = [input.next, input.peek(1), input.peek(2)];
  if (letters.some((c) => c < 0)) return;
  if (String.fromCharCode(...letters).toUpperCase() !== 'NOT') return;
  if (isWordPart(input.peek(3))) return;
  let ahead = 3;
  while (isSpace(input.peek(ahead))) ahead++;
  // '(' directly after the word, white space between them allowed
  const isCall = input.peek(ahead) === 40;
  input.acceptToken(isCall ? NotName : Not, 3);
});

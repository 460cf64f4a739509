import type { Words } from './definition.ts';

/*
 * What is said at a field: a text as people type it, with holes for values (see `formula/template.ts`), or what a formula gives. The
 * compiler sees formulas only: a text with holes is `SAY("…")`, and is a text again wherever the definition is written.
 */

/** The formula that words are made by; null when they are a fixed text. */
export const wordsFormula = (words: Words): string | null =>
  typeof words !== 'string' ? words.formula : words.includes('{') ? `SAY("${words.replaceAll('"', '""')}")` : null;

/** The same words with their formula written anew; a text with holes stays one where that is what comes back. */
export function wordsWith(words: Words, formula: string): Words {
  if (typeof words !== 'string') return { formula };
  const text = /^SAY\("((?:[^"]|"")*)"\)$/s.exec(formula)?.[1];
  return text === undefined ? { formula } : text.replaceAll('""', '"');
}

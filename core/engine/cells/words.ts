import { isDatum } from '../../formula/errors.ts';
import type { Env } from '../../formula/env.ts';
import { type PlanWords, WORD_KINDS } from '../plan.ts';
import type { FieldWords } from '../state.ts';
import type { CellWays } from './kind.ts';

/** What words say now; nothing while that is not known, or where it cannot be computed. */
export function said(words: PlanWords | null, env: Env): string | null {
  if (words === null || typeof words === 'string') return words;
  const text = words.run(env);
  return isDatum(text) && text !== null && text !== '' ? String(text as string) : null;
}

export const words: CellWays = {
  has: (field) => WORD_KINDS.some((kind) => field.words[kind] !== null),
  formulas: (field) =>
    WORD_KINDS.flatMap((kind) => (typeof field.words[kind] === 'object' && field.words[kind] ? [field.words[kind]] : [])),
  after: [],
  compute(settling, frame, field, cause) {
    // nobody reads them where a record is only worked out
    if (settling.context.isQuiet) return;
    const before = frame.words[field.at] as FieldWords;
    const called = said(field.words.called, frame.env);
    const hint = said(field.words.hint, frame.env);
    const placeholder = said(field.words.placeholder, frame.env);
    if (before.called === called && before.hint === hint && before.placeholder === placeholder) return;
    const now: FieldWords = { called, hint, placeholder };
    const changed = WORD_KINDS.filter((kind) => before[kind] !== now[kind]);
    frame.words[field.at] = now;
    const [first] = changed;
    if (first) settling.trace.note(field.key, frame.line, 'words', cause, before[first], now[first]);
  },
};

import type { Origin } from '~~/core/model/origin.ts';

/** Where a value comes from, in two words. */
export const ORIGIN_WORDS: Readonly<Record<Origin['kind'], string>> = {
  none: '',
  typed: 'typed',
  chosen: 'chosen',
  emptied: 'left empty',
  default: 'default',
  prefill: 'prefilled',
  calculation: 'calculated',
  onlyOne: 'only one left',
  filledUp: 'filled in',
  cleared: 'cleared',
  spread: 'set',
  rule: 'by a rule',
  move: 'by a move',
  hidden: 'hidden',
  url: 'from the link',
  carried: 'kept',
  stored: 'saved',
};

import { PLAIN, type ValueKind, charactersProblem, fitPlain } from './kind.ts';
import { composed } from '../text.ts';
import { TEXT } from '../typing.ts';

/** The most characters of a text whose column says no other number. */
export const MAX_TEXT = 10_000;

export const text: ValueKind = {
  ...PLAIN,
  label: 'Text',
  folded: true,
  formula: () => TEXT,
  fit: (value) => {
    const fitted = fitPlain(value);
    return typeof fitted === 'string' ? composed(fitted) : fitted;
  },
  problem: (value, label, { length }) => {
    if (typeof value !== 'string') return `${label} must be text.`;
    const most = length ?? MAX_TEXT;
    return value.length > most ? `${label} has ${value.length} characters; at most ${most} can be saved.` : charactersProblem(label, value);
  },
};

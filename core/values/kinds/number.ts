import { MAX_NUMBER, SIGNIFICANT_DIGITS, canonical, roundTo } from '../decimal.ts';
import { readNumber } from '../read.ts';
import { inputNumber } from '../show.ts';
import { NUMBER } from '../typing.ts';
import { PLAIN, type ValueKind, fitPlain } from './kind.ts';

export const number: ValueKind = {
  ...PLAIN,
  label: 'Number',
  sql: 'numeric',
  standard: { type: 'number' },
  formula: () => NUMBER,
  read: (text) => readNumber(text),
  // files hold the noise of binary fractions, which is rounded away
  fromFile: (text) => readNumber(text, true),
  written: (value) => (typeof value === 'number' ? inputNumber(value) : PLAIN.written(value)),
  fit: (value, { decimals }) => {
    if (typeof value !== 'number') return fitPlain(value);
    return decimals === null ? canonical(value) : roundTo(value, decimals);
  },
  problem: (value, label) => {
    if (typeof value !== 'number' || !Number.isFinite(value)) return `${label} must be a number.`;
    if (Math.abs(value) > MAX_NUMBER) return `${label} is too large.`;
    // digits beyond those that are kept are said, not cut in silence
    return canonical(value) === value || value === 0 ? null : `${label} has more digits than the ${SIGNIFICANT_DIGITS} that are kept.`;
  },
  // with zeros before them ("007") they are codes, and stay text
  suits: (texts) => !texts.some((t) => /^0\d/.test(t.trim())),
};

import { readYesNo } from '../read.ts';
import { YESNO } from '../typing.ts';
import { PLAIN, type ValueKind } from './kind.ts';

export const yesno: ValueKind = {
  ...PLAIN,
  label: 'Yes/no',
  sql: 'integer',
  standard: { type: 'boolean', more: { trueValues: ['yes'], falseValues: ['no'] } },
  formula: () => YESNO,
  read: readYesNo,
  fromFile: readYesNo,
  problem: (value, label) => (typeof value === 'boolean' ? null : `${label} must be yes or no.`),
  fromStored: (value) => (value === null ? null : value === 1),
  // 0 and 1 alone are numbers
  suits: (texts) => !texts.every((t) => /^[01]$/.test(t.trim())),
};

import { UNKNOWN, rowOf } from '../typing.ts';
import { PLAIN, type ValueKind, isRowNumber } from './kind.ts';

export const link: ValueKind = {
  ...PLAIN,
  label: 'Link to a row',
  chooses: 'row',
  rows: 'named',
  sql: 'integer',
  standard: { type: 'integer' },
  formula: (target) => (target ? rowOf(target) : UNKNOWN),
  problem: (value, label) => (isRowNumber(value) ? null : `${label} must be one of the rows offered.`),
};

import { UNKNOWN, listOf, rowOf } from '../typing.ts';
import { SEVERAL, type ValueKind, isRowNumber } from './kind.ts';

export const links: ValueKind = {
  ...SEVERAL,
  label: 'Links, several',
  chooses: 'row',
  rows: 'named',
  formula: (target) => listOf(target ? rowOf(target) : UNKNOWN),
  problem: (value, label) => (Array.isArray(value) && value.every(isRowNumber) ? null : `${label} must be some of the rows offered.`),
};

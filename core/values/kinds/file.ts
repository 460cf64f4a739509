import { FILES, rowOf } from '../typing.ts';
import { PLAIN, type ValueKind, isRowNumber } from './kind.ts';

const REFUSED = { ok: false, message: 'A file has to be uploaded; other values cannot become one.' } as const;

export const file: ValueKind = {
  ...PLAIN,
  label: 'File',
  sql: 'integer',
  standard: { type: 'integer' },
  formula: () => rowOf(FILES),
  problem: (value, label) => (isRowNumber(value) ? null : `${label} must be a file that was sent.`),
  made: () => REFUSED,
};

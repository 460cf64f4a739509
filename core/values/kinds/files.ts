import { FILES, listOf, rowOf } from '../typing.ts';
import { SEVERAL, type ValueKind, isRowNumber } from './kind.ts';

const REFUSED = { ok: false, message: 'Files have to be uploaded; other values cannot become one.' } as const;

export const files: ValueKind = {
  ...SEVERAL,
  label: 'Files, several',
  formula: () => listOf(rowOf(FILES)),
  problem: (value, label) => (Array.isArray(value) && value.every(isRowNumber) ? null : `${label} must be files that were sent.`),
  made: (from, value) => (from === 'file' && isRowNumber(value) ? { ok: true, value: [value as number] } : REFUSED),
};

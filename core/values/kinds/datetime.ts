import { isIsoDateTime } from '../dates.ts';
import { readDateTime } from '../read.ts';
import { showDateTime } from '../show.ts';
import { DATETIME } from '../typing.ts';
import type { Datum } from '../types.ts';
import { PLAIN, type ValueKind } from './kind.ts';

const spaced = (value: Datum): string => (typeof value === 'string' ? value.replace('T', ' ') : PLAIN.written(value));

export const datetime: ValueKind = {
  ...PLAIN,
  label: 'Date and time',
  standard: { type: 'datetime' },
  sheet: { format: 'yyyy-mm-dd hh:mm:ss' },
  formula: () => DATETIME,
  // a date alone is its midnight
  read: readDateTime,
  fromFile: readDateTime,
  toFile: spaced,
  written: spaced,
  show: (value, showing) => (typeof value === 'string' ? showDateTime(value, showing) : PLAIN.show(value, showing)),
  problem: (value, label) => (typeof value === 'string' && isIsoDateTime(value) ? null : `${label} must be a date and time.`),
  suits: () => true,
};

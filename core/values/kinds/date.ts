import { isIsoDate } from '../dates.ts';
import { readDate } from '../read.ts';
import { showDate } from '../show.ts';
import { DATE } from '../typing.ts';
import { PLAIN, type ValueKind } from './kind.ts';

export const date: ValueKind = {
  ...PLAIN,
  label: 'Date',
  standard: { type: 'date' },
  sheet: { format: 'yyyy-mm-dd' },
  formula: () => DATE,
  read: (text, today) => (today && /^t(oday)?$/i.test(text.trim()) ? { ok: true, value: today } : readDate(text)),
  fromFile: readDate,
  show: (value, showing) => (typeof value === 'string' ? showDate(value, showing) : PLAIN.show(value, showing)),
  problem: (value, label) => (typeof value === 'string' && isIsoDate(value) ? null : `${label} must be a date from the years 1 to 9999.`),
  suits: () => true,
  // a date-time becomes a date by leaving its time out
  made: (from, _, [text = '']) => (from === 'datetime' ? readDate(text.slice(0, 10)) : null),
};

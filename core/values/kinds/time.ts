import { isIsoTime } from '../dates.ts';
import { readTime } from '../read.ts';
import { showTime } from '../show.ts';
import { TIME } from '../typing.ts';
import { PLAIN, type ValueKind } from './kind.ts';

export const time: ValueKind = {
  ...PLAIN,
  label: 'Time',
  standard: { type: 'time' },
  formula: () => TIME,
  read: readTime,
  fromFile: readTime,
  written: (value) => (typeof value === 'string' ? showTime(value) : PLAIN.written(value)),
  show: (value, showing) => (typeof value === 'string' ? showTime(value, showing.format ?? null) : PLAIN.show(value, showing)),
  problem: (value, label) => (typeof value === 'string' && isIsoTime(value) ? null : `${label} must be a time.`),
  // 930 would read as a time
  suits: (texts) => texts.every((t) => t.includes(':')),
  made: (from, _, [text = '']) => (from === 'datetime' ? readTime(text.slice(11)) : null),
};

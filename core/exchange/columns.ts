import type { ColumnType } from '../form/tables.ts';
import { readDate, readDateTime, readNumber, readTime, readYesNo, type Read } from '../values/read.ts';
import type { Datum } from '../values/types.ts';

/** How text from a file becomes a value of a column type. Links are matched, not read. */
export function readCell(type: ColumnType, text: string): Read<Datum> {
  switch (type) {
    case 'number':
      return readNumber(text, true);
    case 'date':
      return readDate(text);
    case 'time':
      return readTime(text);
    case 'datetime':
      return readDateTime(text);
    case 'yesno':
      return readYesNo(text);
    default:
      return { ok: true, value: text.trim() === '' ? null : text };
  }
}

/** Types tried in this order; the first that reads every value is the guess. */
const TRIED: readonly ColumnType[] = ['yesno', 'number', 'date', 'datetime', 'time'];

/**
 * The likely type of a column from its texts: the narrowest type that reads all that are not blank. Numbers with
 * leading zeros ("007") are codes and stay text; 0/1 alone are numbers, not yes/no. Long texts become long text.
 */
export function guessType(texts: readonly string[]): ColumnType {
  const filled = texts.filter((t) => t.trim() !== '');
  if (!filled.length) return 'text';
  for (const type of TRIED) {
    if (!filled.every((t) => readCell(type, t).ok)) continue;
    if (type === 'yesno' && filled.every((t) => /^[01]$/.test(t.trim()))) continue;
    if (type === 'number' && filled.some((t) => /^0\d/.test(t.trim()))) continue;
    // 930 would read as a time
    if (type === 'time' && !filled.every((t) => t.includes(':'))) continue;
    return type;
  }
  return filled.some((t) => t.length > 200 || t.includes('\n')) ? 'longtext' : 'text';
}

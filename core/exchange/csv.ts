import type { Column } from '../form/tables.ts';
import { plainNumber } from '../values/decimal.ts';
import type { Datum } from '../values/types.ts';

/**
 * A value as a cell of a CSV file that reads back as the same value: numbers in plain digits, dates ISO, yes/no in words.
 */
export function csvText(column: Pick<Column, 'type'>, value: Datum): string {
  if (value === null) return '';
  if (typeof value === 'number') return plainNumber(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return column.type === 'datetime' ? value.replace('T', ' ') : value;
  return value.map((v) => csvText(column, v)).join('; ');
}

/**
 * A cell quoted where CSV needs it (RFC 4180). Text that a spreadsheet would run as a formula (beginning with = + - @
 * or a control character) gets an apostrophe before it, which spreadsheets hide and `uncell` takes away again.
 * Numbers are left alone: -20 is a number, not a formula.
 */
export function csvCell(text: string, isText: boolean): string {
  const guarded = isText && /^['=+\-@\t\r]/.test(text) ? `'${text}` : text;
  // a spreadsheet whose language has semicolons or tabs between cells cuts there unless the cell is quoted, and what comes
  // behind would begin a cell of its own, unguarded
  return /[",;\t\r\n]|^\s|\s$/.test(guarded) ? `"${guarded.replaceAll('"', '""')}"` : guarded;
}

/** Takes the guard of `csvCell` away from a text read back. */
export const uncell = (text: string): string => (/^'['=+\-@\t\r]/.test(text) ? text.slice(1) : text);

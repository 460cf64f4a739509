import type { Column } from '../model/tables.ts';
import { KINDS } from '../values/kinds/index.ts';
import type { Datum } from '../values/types.ts';

/**
 * A value as a cell of a CSV file that reads back as the same value: numbers in plain digits, dates ISO, yes/no in words.
 */
export const csvText = (column: Pick<Column, 'type'>, value: Datum): string => KINDS[column.type].toFile(value);

/**
 * Places inside a text where a spreadsheet whose language puts semicolons or tabs between cells would begin a cell of its own,
 * quoted or not, and run it as a formula.
 */
const INSIDE = /([;\t])(?=["' ]*[=+\-@])|([\r\n])(?=["' ]*[=@])/g;
const INSIDE_GUARDED = /([;\t])'(?=["' ]*[=+\-@])|([\r\n])'(?=["' ]*[=@])/g;

/**
 * A cell quoted where CSV needs it (RFC 4180). Text that a spreadsheet would run as a formula (beginning with = + - @
 * or a control character, or with such behind a semicolon, see `INSIDE`) gets an apostrophe before it, which `uncell` takes
 * away again: every text comes back as it was. Numbers are left alone: -20 is a number, not a formula.
 */
export function csvCell(text: string, isText: boolean): string {
  const guarded = isText ? (/^['=+\-@\t\r]/.test(text) ? "'" : '') + text.replace(INSIDE, "$1$2'") : text;
  return /[",;\t\r\n]|^\s|\s$/.test(guarded) ? `"${guarded.replaceAll('"', '""')}"` : guarded;
}

/** Takes the guard of `csvCell` away from a text read back. */
export const uncell = (text: string): string => (/^'['=+\-@\t\r]/.test(text) ? text.slice(1) : text).replace(INSIDE_GUARDED, '$1$2');

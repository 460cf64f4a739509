import { choice } from './choice.ts';
import { choices } from './choices.ts';
import { date } from './date.ts';
import { datetime } from './datetime.ts';
import { file } from './file.ts';
import { files } from './files.ts';
import { json } from './json.ts';
import type { Showing, ValueKind } from './kind.ts';
import { link } from './link.ts';
import { links } from './links.ts';
import { longtext } from './longtext.ts';
import { number } from './number.ts';
import { person } from './person.ts';
import { text } from './text.ts';
import { time } from './time.ts';
import { yesno } from './yesno.ts';
import type { Datum } from '../types.ts';

/** Every type of column, in the order they are offered, and in which the type of a file's column is guessed. */
export const KINDS = {
  text,
  longtext,
  number,
  date,
  time,
  datetime,
  yesno,
  choice,
  choices,
  link,
  links,
  person,
  file,
  files,
  json,
} satisfies Record<string, ValueKind>;
export type ColumnType = keyof typeof KINDS;
/** Whether a type holds files: one or several. */
export const holdsFiles = (type: string): boolean => type === 'file' || type === 'files';
/** The numbers of the files that a value of such a type stands for. */
export const fileNumbers = (value: unknown): readonly number[] =>
  (Array.isArray(value) ? (value as readonly unknown[]) : [value]).filter((v): v is number => typeof v === 'number');
export const COLUMN_TYPES = Object.keys(KINDS) as [ColumnType, ...ColumnType[]];

const byName: Readonly<Record<string, ValueKind | undefined>> = KINDS;
/** A value for readers. `type` is that of its column, or the kind of its formula's type; what is no column's stands as it is. */
export const showAs = (type: string, value: Datum, showing: Showing): string =>
  Array.isArray(value)
    ? (value as readonly Datum[]).map((v) => showAs(type, v, showing)).join(', ')
    : (byName[type] ?? text).show(value, showing);

export type { Limits, Showing, ValueKind } from './kind.ts';
export { FILES } from '../typing.ts';
export { PEOPLE } from './person.ts';

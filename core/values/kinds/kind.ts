import type { Read } from '../read.ts';
import { isBlankText, textProblem } from '../text.ts';
import { plainNumber } from '../decimal.ts';
import { type FieldFormat, showNumber } from '../show.ts';
import type { Type } from '../typing.ts';
import type { Datum } from '../types.ts';

/** How a reader sees values: their locale, and how many decimals a number has (null: as many as it has). */
export interface Showing {
  readonly locale: string;
  readonly decimals: number | null;
  readonly format?: FieldFormat | null | undefined;
}
/** What a column or field says of the values it holds. */
export interface Limits {
  /** of numbers; null for any */
  readonly decimals: number | null;
  /** the most characters of a text; null for the general limit */
  readonly length: number | null;
}

/**
 * One type of column: everything that depends on it. A type is one file in this folder and one line in `index.ts`; whatever asks for
 * a type's ways asks this, and the compiler finds what a new type leaves out.
 */
export interface ValueKind {
  /** what designers call it */
  readonly label: string;
  /** a column of it holds several values */
  readonly several: boolean;
  /** its values are chosen: a row of a table, or a value out of a list; null when they are typed */
  readonly chooses: 'row' | 'value' | null;
  /** the table whose rows it holds: the one its column names, one that is always the same, or none */
  readonly rows: 'named' | { readonly table: string } | null;
  /** text compared, ordered and searched without regard to case: its folded text is kept beside it */
  readonly folded: boolean;
  /** how SQL holds it: numbers numeric, yes/no 0 and 1, rows by their number, everything else text */
  readonly sql: 'text' | 'numeric' | 'integer';
  /** its type in Table Schema (datapackage.org), and what else is said of it there */
  readonly standard: { readonly type: string; readonly more?: object };
  /** how a sheet of a workbook shows it */
  readonly sheet?: { readonly width?: number; readonly format?: string };

  /** The type formulas know it by. `target` is the table its column names, `options` what a choice is among (null: not known). */
  formula(target: string | null, options: readonly string[] | null): Type;
  /** Reads what a person typed. `today` is the day, for words that mean it. */
  read(text: string, today?: string): Read<Datum>;
  /** Reads what stands in a file. */
  fromFile(text: string): Read<Datum>;
  /** The value as a cell of a file that `fromFile` reads back as the same. */
  toFile(value: Datum): string;
  /** As it stands where it is typed: what `read` reads back. */
  written(value: Datum): string;
  show(value: Datum, showing: Showing): string;
  /** The value as it is held: rounded, composed, nothing for what is blank. What it cannot hold is given back unchanged. */
  fit(value: Datum, limits: Limits): Datum;
  /** Why it cannot hold the value, as a sentence about `label`; null when it can. Whether a choice is offered is asked elsewhere. */
  problem(value: Exclude<Datum, null>, label: string, limits: Limits): string | null;
  /** The value from what the database holds. */
  fromStored(value: Datum): Datum;
  /** Whether the texts of a column, all of which it reads, look like this type and no other: how the type of a file's column is guessed. */
  suits?(texts: readonly string[]): boolean;
  /** The value made of one of another type, where that is more than reading its text; null when it is not. */
  made?(from: string, value: Datum, texts: readonly string[]): Read<Datum> | null;
  /** The value as JSON carries it to others, where that is not the value itself. */
  asJson?(value: Datum): unknown;
}

/** Text as it was typed; nothing when it is blank. */
export const readPlain = (text: string): Read<Datum> => ({ ok: true, value: text.trim() === '' ? null : text });

/** What no database and no file holds unchanged. */
export function charactersProblem(label: string, text: string): string | null {
  const odd = textProblem(text);
  return odd === null ? null : `${label} ${odd}`;
}
export const isRowNumber = (value: Datum): boolean => typeof value === 'number' && Number.isInteger(value) && value > 0;

const plain = (value: Datum): string => {
  if (value === null) return '';
  if (typeof value === 'number') return plainNumber(value);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'string' ? value : value.map(plain).join('; ');
};
/** One value or several: each once, nothing for none. */
export function fitPlain(value: Datum): Datum {
  if (typeof value === 'string') return isBlankText(value) ? null : value;
  if (!Array.isArray(value)) return value;
  const kept = [...new Set((value as readonly Datum[]).filter((v) => v !== null && v !== ''))];
  return kept.length ? kept : null;
}

const show = (value: Datum, showing: Showing): string => (typeof value === 'number' ? showNumber(value, showing) : plain(value));

/** What most types have in common: what is typed is the value, and stands everywhere as it is. */
export const PLAIN = {
  several: false,
  chooses: null,
  rows: null,
  folded: false,
  sql: 'text',
  standard: { type: 'string' },
  read: readPlain,
  fromFile: readPlain,
  toFile: plain,
  written: plain,
  show,
  fit: fitPlain,
  fromStored: (value: Datum): Datum => value,
} as const satisfies Partial<ValueKind>;

/** What types that hold several values have in common: they are kept as a JSON list. */
export const SEVERAL = {
  ...PLAIN,
  several: true,
  fromStored: (value: Datum): Datum => (typeof value === 'string' ? (JSON.parse(value) as Datum) : value),
  show: (value: Datum, showing: Showing): string =>
    Array.isArray(value) ? (value as readonly Datum[]).map((v) => show(v, showing)).join(', ') : show(value, showing),
} as const;

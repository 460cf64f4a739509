import { isFolded } from '../../core/choices/order.ts';
import { type Column, KEY_PATTERN } from '../../core/model/tables.ts';
import type { SqlNames } from '../../core/formula/sql.ts';
import { KINDS, type ValueKind } from '../../core/values/kinds/index.ts';
import { canonical } from '../../core/values/decimal.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';
import { dialectOf } from './dialect';

/*
 * The one place where values of the model become values of the database and back, and where names of the model
 * become identifiers. Identifiers come from the model only; a key that does not look like one is a bug and throws.
 */

const SYSTEM = new Set(['id', '_revision', '_created_at', '_created_by', '_changed_at', '_changed_by', '_form', '_form_version']);

export const dataTable = (key: string): string => `data_${checkedKey(key)}`;
export const foldColumn = (key: string): string => `${checkedKey(key)}__fold`;
export const keyOfFold = (folded: string): string => folded.slice(0, -'__fold'.length);
const quoted = (name: string): string => `"${name}"`;

function checkedKey(key: string): string {
  if (!KEY_PATTERN.test(key) && !SYSTEM.has(key)) throw new RangeError(`“${key}” is no name of the model.`);
  return key;
}

/** Names as the SQL translator of core writes them. */
export const SQL_NAMES: Omit<SqlNames, 'holds'> = {
  table: (key) => quoted(dataTable(key)),
  column: (alias, key) => `${alias}.${quoted(checkedKey(key))}`,
  foldColumn: (alias, key) => `${alias}.${quoted(foldColumn(key))}`,
};

/** The same with what a database says in its own way. */
export const namesFor = (db: { readonly client: unknown }): SqlNames => ({
  ...SQL_NAMES,
  holds: (list, item) => dialectOf(db).holds(list, item, false),
});

/**
 * Behind what rows are put in order by: empty comes before everything, and last going down. Said, since databases do not agree on it.
 */
export const inOrder = (descending: boolean): string => (descending ? ' DESC NULLS LAST' : ' ASC NULLS FIRST');

/** The SQL type of a column. */
export const sqlType = (column: Pick<Column, 'type'>): ValueKind['sql'] => KINDS[column.type].sql;

export type Stored = string | number | null;

/** A value as the database holds it; several values as a JSON list. */
export function toStored(value: Datum): Stored {
  if (typeof value === 'boolean') return Number(value);
  if (typeof value === 'number') return canonical(value);
  return typeof value === 'string' || value === null ? value : JSON.stringify(value);
}

/** What is written for a column: its value, and its folded text where it is compared as text. */
export function storedColumns(column: Column, value: Datum): Record<string, Stored> {
  const [first, folded] = storedParts(column, value);
  return folded === undefined ? { [column.key]: first } : { [column.key]: first, [foldColumn(column.key)]: folded };
}
/** The same without the names. */
export const storedParts = (column: Column, value: Datum): readonly [Stored] | readonly [Stored, Stored] =>
  isFolded(column.type) ? [toStored(value), foldedOf(value)] : [toStored(value)];
/** What a value of a column of texts is compared by. */
export const foldedOf = (value: Datum): string | null => (typeof value === 'string' ? foldText(value) : null);

/** A database row as a row of the model: only the columns asked for, yes/no as booleans. */
export function rowFrom(raw: Readonly<Record<string, unknown>>, columns: readonly Column[]): Row {
  const row: Record<string, Datum> & { id: number } = { id: raw.id as number };
  for (const { key, type } of columns) row[key] = KINDS[type].fromStored((raw[key] ?? null) as Datum);
  return row;
}

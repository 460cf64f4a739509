import { isFolded } from '../../core/choices/order.ts';
import { type Column, KEY_PATTERN } from '../../core/form/tables.ts';
import type { SqlNames } from '../../core/formula/sql.ts';
import { canonical } from '../../core/values/decimal.ts';
import { foldText } from '../../core/values/text.ts';
import type { Datum, Row } from '../../core/values/types.ts';

/*
 * The one place where values of the model become values of the database and back, and where names of the model
 * become identifiers. Identifiers come from the model only; a key that does not look like one is a bug and throws.
 */

const SYSTEM = new Set(['id', '_revision', '_created_at', '_created_by', '_changed_at', '_changed_by', '_form', '_form_version']);

export const dataTable = (key: string): string => `data_${checkedKey(key)}`;
export const foldColumn = (key: string): string => `${checkedKey(key)}__fold`;
const quoted = (name: string): string => `"${name}"`;

function checkedKey(key: string): string {
  if (!KEY_PATTERN.test(key) && !SYSTEM.has(key)) throw new RangeError(`“${key}” is no name of the model.`);
  return key;
}

/** Names as the SQL translator of core writes them. */
export const SQL_NAMES: SqlNames = {
  table: (key) => quoted(dataTable(key)),
  column: (alias, key) => `${alias}.${quoted(checkedKey(key))}`,
  foldColumn: (alias, key) => `${alias}.${quoted(foldColumn(key))}`,
};

/** The SQL type of a column. Numbers are numeric; dates ISO text; yes/no 0 and 1; links integers. */
export function sqlType(column: Column): 'text' | 'numeric' | 'integer' {
  switch (column.type) {
    case 'number':
      return 'numeric';
    case 'yesno':
    case 'link':
    case 'person':
      return 'integer';
    default:
      return 'text';
  }
}

export type Stored = string | number | null;

/** A value as the database holds it. */
export const toStored = (value: Datum): Stored =>
  typeof value === 'boolean' ? Number(value) : typeof value === 'number' ? canonical(value) : (value as Stored);

/** What is written for a column: its value, and its folded text where it is compared as text. */
export function storedColumns(column: Column, value: Datum): Record<string, Stored> {
  const stored: Record<string, Stored> = { [column.key]: toStored(value) };
  if (isFolded(column.type)) stored[foldColumn(column.key)] = typeof value === 'string' ? foldText(value) : null;
  return stored;
}

/** A database row as a row of the model: only the columns asked for, yes/no as booleans. */
export function rowFrom(raw: Readonly<Record<string, unknown>>, columns: readonly Column[]): Row {
  const row: Record<string, Datum> & { id: number } = { id: raw.id as number };
  for (const { key, type } of columns) {
    const value = (raw[key] ?? null) as Datum;
    row[key] = type === 'yesno' && value !== null ? value === 1 : value;
  }
  return row;
}

/** Empty is a value of every type. It is not 0, not "", not FALSE (model.md, "Empty"). */
export const EMPTY = null;

/**
 * What a field, a column or a formula holds, as plain data that survives JSON and SQLite unchanged.
 *
 * - number: a double that *denotes* the decimal of at most 15 significant digits nearest to it (see decimal.ts)
 * - text, choice: string
 * - date `YYYY-MM-DD`, time `HH:MM:SS`, date-time `YYYY-MM-DDTHH:MM:SS`: ISO text, which sorts as time does
 * - yes/no: boolean
 * - link, person: the id of the row
 * - lists (links, choices, all lines' values of a column): arrays
 *
 * The type is known from the column or from the checker; values carry none.
 */
export type Datum = null | number | string | boolean | readonly Datum[];

/** A row of a table: its id and a value for every column that was read. */
export interface Row {
  readonly id: number;
  readonly [column: string]: Datum;
}

export const isEmpty = (value: unknown): value is null | undefined => value === null || value === undefined;

/**
 * Whether two values are the same value. Lists are compared item by item; text is compared exactly
 * (case counts here: this is identity, for "did it change?", not the language's `=`).
 */
export function same(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (!Array.isArray(a) || !Array.isArray(b) || a.length !== b.length) return false;
  return a.every((item, i) => same(item, b[i]));
}

/** A type whose every part is only read. */
export type Deep<T> = T extends readonly (infer U)[] ? readonly Deep<U>[] : T extends object ? { readonly [K in keyof T]: Deep<T[K]> } : T;

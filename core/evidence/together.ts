import type { Column } from '../model/tables.ts';
import { foldText } from '../values/text.ts';
import type { Datum } from '../values/types.ts';

/*
 * Columns that come together: where one says what others are, as each site has one region. What is written with each record could be
 * said once, in a table of its own, and be linked to.
 *
 * These are approximate functional dependencies: at most a fiftieth of the rows may be otherwise (the measure g₃ of Kivinen and Mannila,
 * Approximate inference of functional dependencies, 1995), and knowing the one must take away most of the errors of guessing the other
 * (the lambda of Goodman and Kruskal, Measures of association for cross classifications, 1954).
 */
const LEAST = { rows: 20, values: 2, rowsPerValue: 3, fits: 0.98, lambda: 0.8 } as const;
/** Rows that are looked at before a pair of columns is looked at whole, and how far off it may be there. */
const SAMPLE = { rows: 2000, margin: 0.05 } as const;
const MOST_COLUMNS = 60;
const MOST_EXCEPTIONS = 30;

/** One value where its fellows say another. */
export interface Odd {
  readonly row: number;
  readonly column: string;
  /** what the row says, and what most rows with the same determining value say */
  readonly said: Datum;
  readonly mostly: Datum;
}
/** Columns that could be a table of their own: `by` is what its rows would be known by, `columns` what they would say. */
export interface Together {
  readonly by: string;
  readonly columns: readonly string[];
  /** how many rows the table would have */
  readonly values: number;
  /** rows that say in every column what most with the same value say, of all rows with a value in one of the columns */
  readonly fits: number;
  readonly of: number;
  /** the first that are otherwise: likely mistakes */
  readonly exceptions: readonly Odd[];
}
/** Groups that belong together, the innermost first: regions before the sites that lie in them. The order in which they are split. */
export type TogetherChain = readonly Together[];

interface Coded {
  readonly column: Column;
  /** by row: 0 is empty, otherwise a number from 1 for each value; texts without regard to case */
  readonly codes: Uint32Array;
  readonly values: readonly Datum[];
  /** rows by code */
  readonly counts: readonly number[];
  /** how long its texts are on average: names are longer than codes */
  readonly long: number;
}
const isScalar = (value: Datum): boolean => value === null || typeof value !== 'object';
/** What a cell counts as, where it is compared with others. */
export const togetherKey = (value: Datum): string =>
  typeof value === 'string' ? `t${foldText(value.trim())}` : `${typeof value} ${String(value as number)}`;

function coded(column: Column, values: readonly Datum[]): Coded | null {
  const codes = new Uint32Array(values.length);
  const known = new Map<string, number>();
  const [distinct, counts]: [Datum[], number[]] = [[null], [0]];
  let long = 0;
  for (let i = 0; i < values.length; i++) {
    const value = values[i] ?? null;
    if (!isScalar(value)) return null;
    if (value === null) {
      counts[0]!++;
      continue;
    }
    const key = togetherKey(value);
    let code = known.get(key);
    if (code === undefined) {
      known.set(key, (code = distinct.length));
      distinct.push(value);
      counts.push(0);
      long += String(value as string | number).length;
    }
    codes[i] = code;
    counts[code]!++;
  }
  return { column, codes, values: distinct, counts, long: long / Math.max(1, distinct.length - 1) };
}

/** For each value of one column the value of the other that most rows have with it; and in how many rows it is so. */
function majority(x: Coded, y: Coded, stride: number): { most: Uint32Array; fits: number; of: number } {
  const pairs = new Map<number, number>();
  const width = y.values.length;
  const [most, best] = [new Uint32Array(x.values.length), new Uint32Array(x.values.length)];
  let of = 0;
  for (let i = 0; i < x.codes.length; i += stride) {
    const [a, b] = [x.codes[i]!, y.codes[i]!];
    // a row that says neither says nothing of both
    if (a === 0 && b === 0) continue;
    of++;
    if (a === 0) continue;
    const pair = a * width + b;
    const count = (pairs.get(pair) ?? 0) + 1;
    pairs.set(pair, count);
    if (count > best[a]!) [best[a], most[a]] = [count, b];
  }
  return { most, fits: best.reduce((n, c) => n + c, 0), of };
}
/** Whether one column says what another is. */
function determines(x: Coded, y: Coded): boolean {
  if (y.values.length <= LEAST.values) return false;
  const rows = x.codes.length;
  const stride = Math.floor(rows / SAMPLE.rows);
  if (stride > 1) {
    const sample = majority(x, y, stride);
    if (sample.fits < sample.of * (LEAST.fits - SAMPLE.margin)) return false;
  }
  const { fits, of } = majority(x, y, 1);
  const guessed = of - Math.max(...y.counts.slice(1));
  return of >= LEAST.rows && fits >= of * LEAST.fits && of - fits <= guessed * (1 - LEAST.lambda);
}

/**
 * How far each value of one column comes with one value of another, row by row; null where it does not, or where either has too few. Of
 * both directions only this one: `values` is how many the other has.
 */
export function determination(
  of: readonly Datum[],
  by: readonly Datum[],
): { fits: number; of: number; values: number; holds: (i: number) => boolean | null } | null {
  const column = { key: '', type: 'text' } as Column;
  const [x, y] = [coded(column, of), coded(column, by)];
  if (!x || !y || !canDetermine(x) || y.values.length >= x.values.length || !determines(x, y)) return null;
  const { most, fits, of: all } = majority(x, y, 1);
  const holds = (i: number): boolean | null =>
    x.codes[i] === 0 && y.codes[i] === 0 ? null : x.codes[i] !== 0 && most[x.codes[i]!] === y.codes[i];
  return { fits, of: all, values: y.values.length - 1, holds };
}

const canDetermine = ({ column, values, counts }: Coded): boolean => {
  const [distinct, filled] = [values.length - 1, counts.reduce((n, c) => n + c, 0) - counts[0]!];
  return (column.type === 'text' || column.type === 'choice') && distinct >= LEAST.values && filled >= distinct * LEAST.rowsPerValue;
};

/**
 * The columns of a table that come together, chain by chain, what has most values first. Takes the columns with their values, row by row
 * in the order of `ids`, links as numbers of rows. Values that are lists or objects are left out, and all after the first 60 columns.
 * Cost: rows × pairs of columns that come near on a sample.
 */
export function togetherIn(
  columns: readonly Column[],
  valuesOf: ReadonlyMap<string, readonly Datum[]>,
  ids: readonly number[],
): TogetherChain[] {
  if (ids.length < LEAST.rows) return [];
  const all = columns.slice(0, MOST_COLUMNS).flatMap((c) => coded(c, valuesOf.get(c.key) ?? []) ?? []);
  const heads = all.filter(canDetermine);
  const said = new Map(heads.map((x) => [x, new Set(all.filter((y) => y !== x && determines(x, y)))]));
  // two that say each other are one thing: it is called by the longer
  const named = heads.filter((x) => ![...said.get(x)!].some((y) => said.get(y)?.has(x) && (y.long > x.long || (y.long === x.long && all.indexOf(y) < all.indexOf(x))))); // prettier-ignore
  const byDetail = [...named].sort((a, b) => b.values.length - a.values.length || all.indexOf(a) - all.indexOf(b));
  const taken = new Set<Coded>();
  const chainOf = (x: Coded, own: ReadonlySet<Coded>): Together[] => {
    const left = new Set([...own].filter((y) => !taken.has(y)));
    const inner: Together[] = [];
    for (const mid of byDetail) {
      if (!left.has(mid) || said.get(mid)!.has(x)) continue;
      const under = new Set([...said.get(mid)!].filter((y) => left.has(y)));
      // what says as little as it is said by is not worth a table between them
      if (!under.size || mid.values.length * 2 > x.values.length) continue;
      inner.push(...chainOf(mid, under));
      for (const y of under) left.delete(y);
    }
    if (!left.size) return inner;
    for (const y of [x, ...left]) taken.add(y);
    return [...inner, togetherOf(x, all.filter((y) => left.has(y)), ids)]; // prettier-ignore
  };
  const chains: TogetherChain[] = [];
  for (const x of byDetail) {
    if (taken.has(x)) continue;
    const chain = chainOf(x, said.get(x)!);
    if (chain.length) chains.push(chain);
  }
  return chains;
}

function togetherOf(x: Coded, columns: readonly Coded[], ids: readonly number[]): Together {
  const most = columns.map((y) => majority(x, y, 1).most);
  let [fits, of] = [0, 0];
  const exceptions: Odd[] = [];
  for (let i = 0; i < ids.length; i++) {
    const a = x.codes[i]!;
    const odd = columns.findIndex((y, j) => (a === 0 ? y.codes[i]! !== 0 : y.codes[i]! !== most[j]![a]!));
    if (a === 0 && odd < 0) continue;
    of++;
    if (odd < 0) fits++;
    else if (exceptions.length < MOST_EXCEPTIONS) {
      const y = columns[odd]!;
      const mostly = a === 0 ? null : y.values[most[odd]![a]!]!;
      exceptions.push({ row: ids[i]!, column: y.column.key, said: y.values[y.codes[i]!]!, mostly });
    }
  }
  return { by: x.column.key, columns: columns.map((y) => y.column.key), values: x.values.length - 1, fits, of, exceptions };
}

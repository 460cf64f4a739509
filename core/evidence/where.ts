import type { Datum } from '../values/types.ts';

/*
 * The one condition under which something happens most, of the form “this column (of the record, or of a row it links to) has this
 * value”. Of all such conditions the one with the best F-measure wins (van Rijsbergen, Information Retrieval, 1979): the harmonic mean
 * of how often it happens where the condition holds and how much of what happens lies there.
 */

/** A column of records, or of rows they link to, by which they can be told apart. */
export interface Attribute {
  /** as a formula names it: `region`, `species.protected` */
  readonly path: string;
  /** the record’s own column that it is read through */
  readonly column: string;
  /** its value in a record, by the record’s columns */
  readonly of: (values: Readonly<Record<string, Datum>>) => Datum;
}
export interface Where {
  readonly path: string;
  readonly value: Datum;
  readonly over: number;
  readonly of: number;
}
/** How much must speak for a condition. */
const LEAST = { happens: 5, rate: 0.5, covers: 0.4, lift: 1.5 } as const;
/** A column that has more values than this tells nothing apart. */
const MOST_VALUES = 500;

/**
 * Finds where something mostly happens. Takes all records, those it happens in, and what they are told apart by. Null where no single
 * condition says it: it happens in fewer than half of those the condition holds for, or hardly more often than elsewhere, or mostly
 * outside of them. Linear in records and attributes.
 */
export function whereMost<L extends { readonly values: Readonly<Record<string, Datum>> }>(
  all: readonly L[],
  happens: ReadonlySet<L>,
  attributes: readonly Attribute[],
): Where | null {
  let best: (Where & { readonly score: number }) | null = null;
  const base = happens.size / Math.max(1, all.length);
  for (const { path, of } of attributes) {
    const found = new Map<Datum, { of: number; over: number }>();
    for (const line of all) {
      const value = of(line.values);
      if (value === null || Array.isArray(value)) continue;
      const counted = found.get(value) ?? { of: 0, over: 0 };
      counted.of++;
      if (happens.has(line)) counted.over++;
      found.set(value, counted);
      if (found.size > MOST_VALUES) break;
    }
    if (found.size > MOST_VALUES || found.size < 2) continue;
    for (const [value, counted] of found) {
      const [rate, covers] = [counted.over / counted.of, counted.over / happens.size];
      if (counted.over < LEAST.happens || rate < LEAST.rate || covers < LEAST.covers || rate < base * LEAST.lift) continue;
      const score = (2 * rate * covers) / (rate + covers);
      if (!best || score > best.score) best = { path, value, ...counted, score };
    }
  }
  return best && { path: best.path, value: best.value, over: best.over, of: best.of };
}

import { type FillName, isLockedByFill } from '../form/fills/index.ts';
import { type Origin, isByItself } from '../model/origin.ts';
import type { PlanField } from '../engine/plan.ts';
import type { Datum } from '../values/types.ts';
import { dateToDays, daysToDate } from '../values/dates.ts';
import { type Attribute, whereMost } from './where.ts';

/*
 * How well the fills of a form work, counted over what its records were when they were first saved, and over what was changed by hand
 * afterwards. It is about fields, never about people: who saved what is not known here.
 */

/** What a save said of a record: its values, how each came to be, and what fills would have given where a person decided otherwise. */
export interface SavedLine {
  readonly row: number;
  readonly isNew: boolean;
  /** ISO, local */
  readonly at: string;
  readonly version: number;
  /** by column; what is not there was empty, or in a change, not changed */
  readonly values: Readonly<Record<string, Datum>>;
  readonly origins: Readonly<Record<string, Origin['kind']>>;
  /** by column; null where that was not noted when it was saved */
  readonly gave: Readonly<Record<string, Datum>> | null;
}

/**
 * What became of a field in a new record: its fill (or the form) gave it and it was kept; a person put something else over it; a person
 * emptied it; a person filled it in where nothing was given; it stayed empty.
 */
export const OUTCOMES = ['kept', 'over', 'emptied', 'hand', 'empty'] as const;
export type Outcome = (typeof OUTCOMES)[number];
export type Outcomes = Readonly<Record<Outcome, number>>;

/** A value put over what a fill gave; of days, how far from the day that was given. */
export interface PutOver {
  readonly value: Datum;
  readonly days: number | null;
  readonly count: number;
}
export interface FieldUse {
  /** its path */
  readonly field: string;
  /** the records, or the lines, that it was counted over */
  readonly records: number;
  readonly fill: FillName | null;
  /** what gave it most often, of what is no person; null where nothing did */
  readonly by: Origin['kind'] | null;
  /** whether any save gave it a value, be it later */
  readonly ever: boolean;
  readonly counts: Outcomes;
  /** of the records in which the fill was kept at first, those in which a person changed it later */
  readonly later: number;
  readonly over: readonly PutOver[];
  /** the condition under which it is mostly put over: where `path` has `value`, that is so in `over` of `of` */
  readonly where: { readonly path: string; readonly value: Datum; readonly over: number; readonly of: number } | null;
  /** as `FillsUse.spans` */
  readonly spans: readonly Outcomes[];
  /** keys a record, on average: those pressed for what a person gave, and those that what came by itself saved */
  readonly keys: { readonly pressed: number; readonly saved: number };
  /** of a short list, what nobody ever chose */
  readonly unchosen: readonly Datum[];
}
export interface FillsUse {
  readonly records: number;
  /** records of which nothing was noted */
  readonly unknown: number;
  /** the spans that the records lie in, by their first days */
  readonly spans: readonly string[];
  /** each version with the first day on which a record was saved by it */
  readonly versions: readonly { readonly version: number; readonly from: string }[];
  readonly fields: readonly FieldUse[];
}

const NOTHING: Outcomes = { kept: 0, over: 0, emptied: 0, hand: 0, empty: 0 };

/** What became of a field in a record as it was first saved. */
export function outcomeOf(column: string, line: SavedLine): Outcome {
  const value = line.values[column] ?? null;
  const kind = line.origins[column];
  const gave = line.gave?.[column] ?? null;
  if (value === null) return kind === 'emptied' || gave !== null ? 'emptied' : 'empty';
  if (kind !== undefined && isByItself({ kind } as Origin)) return 'kept';
  return gave !== null ? 'over' : 'hand';
}

/** How many keys a value takes that is typed, or chosen by its first letters, with the one that leads on: an estimate, the same for all. */
export function keysFor(field: PlanField, value: Datum): number {
  if (value === null) return 0;
  if (field.choices) return 4;
  if (typeof value === 'boolean') return 2;
  if (field.definition.type === 'date') return 9;
  return Math.min(60, String(value as string | number).length) + 1;
}

const daysBetween = (from: string, to: string): number => dateToDays(to) - dateToDays(from);
const MOST_SPANS = 60;
/** The spans of time between two days, by their first days: days, weeks, or months, so many that a chart can hold them. */
export function spansBetween(first: string, last: string): string[] {
  const days = daysBetween(first, last);
  const spans: string[] = [];
  if (days <= MOST_SPANS * 7) {
    const step = days <= 21 ? 1 : 7;
    for (let at = dateToDays(first); at <= dateToDays(last); at += step) spans.push(daysToDate(at) ?? first);
    return spans;
  }
  let month = first.slice(0, 7);
  const step = Math.ceil(days / 30 / MOST_SPANS);
  while (month <= last.slice(0, 7)) {
    spans.push(`${month}-01`);
    const at = new Date(`${month}-01T00:00:00Z`);
    at.setUTCMonth(at.getUTCMonth() + step);
    month = at.toISOString().slice(0, 7);
  }
  return spans;
}
/** The place of a day among spans, by their first days in order. */
function spanOf(spans: readonly string[], day: string): number {
  let [low, high] = [0, spans.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (spans[middle]! <= day) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** The three values that are put over what a fill gives most often; days are told by how far they are from the day given. */
function mostPut(column: string, isDay: boolean, lines: readonly SavedLine[]): PutOver[] {
  const counts = new Map<string, { value: Datum; days: number | null; count: number }>();
  for (const { values, gave } of lines) {
    const [value, given] = [values[column] ?? null, gave?.[column] ?? null];
    const days = isDay && typeof value === 'string' && typeof given === 'string' ? daysBetween(given, value) : null;
    const key = days === null ? JSON.stringify(value) : String(days);
    const known = counts.get(key);
    if (known) known.count++;
    else counts.set(key, { value, days, count: 1 });
  }
  return [...counts.values()].sort((a, b) => b.count - a.count).slice(0, 3);
}

/**
 * Counts how well fills work: of the fields of a form over its records, or of those of a group of lines over its lines. Takes the fields,
 * what saves said (oldest first), attributes to look for conditions in, what short lists offer, by field, and the spans to count in, of
 * which the first and last day of the saves decide where none are given. Linear in saves and fields.
 */
export function howFillsWork(
  fields: readonly PlanField[],
  saves: readonly SavedLine[],
  attributes: readonly Attribute[],
  offered: ReadonlyMap<string, readonly Datum[]>,
  within: readonly string[] | null = null,
): FillsUse {
  const made = saves.filter((s) => s.isNew);
  const lines = made.filter((l) => Object.keys(l.origins).length > 0);
  const later = new Map<number, SavedLine[]>();
  for (const s of saves) if (!s.isNew) later.set(s.row, [...(later.get(s.row) ?? []), s]);
  const spans = within ?? (lines.length ? spansBetween(lines[0]!.at.slice(0, 10), lines.at(-1)!.at.slice(0, 10)) : []);
  const versions = new Map<number, string>();
  for (const l of lines) if (!versions.has(l.version)) versions.set(l.version, l.at.slice(0, 10));

  const useOf = (field: PlanField, column: string): FieldUse => {
    const counts: Record<Outcome, number> = { ...NOTHING };
    const bySpan = spans.map((): Record<Outcome, number> => ({ ...NOTHING }));
    const over: SavedLine[] = [];
    const used = new Set<string>();
    const givers = new Map<Origin['kind'], number>();
    let [changed, pressed, saved, ever] = [0, 0, 0, false];
    const offers = offered.get(field.key);
    for (const line of lines) {
      const outcome = outcomeOf(column, line);
      counts[outcome]++;
      const span = bySpan[spanOf(spans, line.at.slice(0, 10))];
      if (span) span[outcome]++;
      const value = line.values[column] ?? null;
      if (value !== null) ever = true;
      if (offers) for (const v of [value].flat()) used.add(JSON.stringify(v));
      if (outcome === 'over') over.push(line);
      const kind = line.origins[column];
      if (outcome === 'kept' && kind !== undefined) givers.set(kind, (givers.get(kind) ?? 0) + 1);
      if (outcome === 'kept') saved += keysFor(field, value);
      else if (outcome !== 'empty') pressed += Math.max(1, keysFor(field, value));
      const after = later.get(line.row) ?? [];
      for (const s of after) {
        const now = s.values[column] ?? null;
        if (now !== null) ever = true;
        if (offers) for (const v of [now].flat()) used.add(JSON.stringify(v));
      }
      if (outcome === 'kept' && after.some((s) => s.values[column] !== undefined && isPersonsKind(s.origins[column]))) changed++;
    }
    const n = Math.max(1, lines.length);
    return {
      field: field.key,
      records: lines.length,
      fill: field.value?.kind ?? null,
      by: [...givers].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null,
      ever,
      counts,
      later: isLockedByFill(field) ? 0 : changed,
      over: mostPut(column, field.definition.type === 'date', over),
      where: over.length
        ? whereMost(
            lines,
            new Set(over),
            attributes.filter((a) => a.column !== column),
          )
        : null,
      spans: bySpan,
      keys: { pressed: pressed / n, saved: saved / n },
      unchosen: lines.length ? (offers ?? []).filter((v) => !used.has(JSON.stringify(v))) : [],
    };
  };
  return {
    records: lines.length,
    unknown: made.length - lines.length,
    spans,
    versions: [...versions].map(([version, from]) => ({ version, from })),
    fields: fields.flatMap((f) => (f.definition.column ? [useOf(f, f.definition.column)] : [])),
  };
}
const isPersonsKind = (kind: Origin['kind'] | undefined): boolean => kind === 'typed' || kind === 'chosen' || kind === 'emptied';

import type { Entry } from '../../core/engine/entry.ts';
import type { Frame } from '../../core/engine/frame.ts';
import type { Origin } from '../../core/model/origin.ts';
import { addressOf } from '../../core/engine/state.ts';
import { type Result, isDatum } from '../../core/formula/errors.ts';
import type { Datum } from '../../core/values/types.ts';

/*
 * What saving an entry writes, worked out from it: plain data, so that it can go from thread to thread, and the transaction that writes it
 * needs no entry.
 */

/** What is written of the fields of a record, or of one of its lines. */
interface PartOut {
  /** what is stored, by column */
  readonly values: Readonly<Record<string, Datum>>;
  /** where each stored value came from, by field; an untouched one keeps the origin it was first saved with */
  readonly origins: Readonly<Record<string, Origin>>;
  /** how the values that this save brings came to be, by column: what the history says beside them */
  readonly kinds: Readonly<Record<string, Origin['kind']>>;
  /** what fills would have given where a person decided otherwise, by column */
  readonly gave: Readonly<Record<string, Datum>>;
  /** the columns that are not told to whoever saves */
  readonly withheld: readonly string[];
}
/** A line as the entry numbered it: the row it is stored in, or a number below zero. */
export interface LineOut extends PartOut {
  readonly line: number;
}
export interface WorkedOut extends PartOut {
  /** the lines of each group, in order; blank ones are left out */
  readonly lines: Readonly<Record<string, readonly LineOut[]>>;
  /** what the history says beside it: moves that were made, warnings that were gone over */
  readonly reason: string | undefined;
  /** the numbers of series that values rest on, by the name of the series */
  readonly series: ReadonlyMap<string, number>;
}

/** What stands under some names, without others. */
export const less = <V>(all: Readonly<Record<string, V>>, names: readonly (string | null)[]): Record<string, V> =>
  names.length ? Object.fromEntries(Object.entries(all).filter(([name]) => !names.includes(name))) : all;

/** All that is written of an entry. In steps of a line; until they have ended nobody may change it. */
export function* outOf(entry: Entry): Generator<void, WorkedOut> {
  const over = yield* entry.overruledInSteps();
  const own = partOf(entry, entry.framesOf(null)[0] as Frame, over);
  const lines: Record<string, LineOut[]> = {};
  for (const { key, group } of entry.plan.lines) {
    const out: LineOut[] = (lines[key] = []);
    if (entry.linesEmptied(key)) continue;
    for (const frame of entry.framesOf(group)) {
      if (frame.isBlank) continue;
      out.push({ line: frame.line as number, ...partOf(entry, frame, over) });
      yield;
    }
  }
  const reason = [movesSaid(entry), savedOver(entry)].filter((s) => s !== undefined).join('\n') || undefined;
  return { ...own, lines, reason, series: entry.seriesTaken };
}

function partOf(entry: Entry, frame: Frame, over: ReadonlyMap<string, Datum>): PartOut {
  const values: Record<string, Datum> = {};
  const origins: Record<string, Origin> = {};
  const kinds: Record<string, Origin['kind']> = {};
  const gave: Record<string, Datum> = {};
  const withheld: string[] = [];
  for (const { key, at, isPersonal, definition } of frame.fields) {
    const { column } = definition;
    if (!column) continue;
    const { value, origin } = frame.state(at);
    values[column] = stored(value);
    origins[key] = origin.kind === 'stored' ? origin.was : origin;
    if (origin.kind !== 'stored' && origin.kind !== 'none') kinds[column] = origin.kind;
    const instead = over.get(addressOf(key, frame.line));
    if (instead !== undefined) gave[column] = instead;
    if (isPersonal && entry.isWithheld(key, frame.line)) withheld.push(column);
  }
  return { values, origins, kinds, gave, withheld };
}
/** Errors and unknowns of shown fields have been refused; what is hidden is stored as empty then. */
const stored = (value: Result): Datum => (isDatum(value) ? value : null);

/** The values of the form's own fields to store, by column. */
export function columnValues(entry: Entry): Record<string, Datum> {
  const { fields, values } = entry.framesOf(null)[0] as Frame;
  return Object.fromEntries(fields.flatMap(({ at, definition: { column } }) => (column ? [[column, stored(values[at] ?? null)]] : [])));
}

/** What was warned of when a record was saved all the same, as a sentence for its history. */
export const SAVED_OVER = 'Saved although warned: ';
export function savedOver(entry: Entry): string | undefined {
  const warnings: string[] = [];
  entry.eachField(({ at }, frame) => {
    for (const c of frame.checks[at] ?? []) if (c.severity === 'warning') warnings.push(c.message);
  });
  return warnings.length ? `${SAVED_OVER}${[...new Set(warnings)].slice(0, 20).join(' · ')}`.slice(0, 2000) : undefined;
}
export const MOVED = 'Moved: ';
/** The moves of this save, one sentence each, for its history. */
export const movesSaid = (entry: Entry): string | undefined =>
  entry.movesMade.length
    ? `${MOVED}${entry.movesMade.map((m) => `${m.move.label}: ${m.from.label} → ${m.to.label}`).join('; ')}`.slice(0, 1000)
    : undefined;

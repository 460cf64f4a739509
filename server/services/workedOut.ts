import type { Entry } from '../../core/engine/entry.ts';
import type { Frame } from '../../core/engine/frame.ts';
import type { PlanField } from '../../core/engine/plan.ts';
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
  const [whole] = entry.framesOf(null);
  const own = partOf(entry, entry.plan.own, null, over, whole);
  const lines: Record<string, LineOut[]> = {};
  for (const { key, group, first, count } of entry.plan.lines) {
    const fields = entry.plan.fields.slice(first, first + count);
    const frames = new Map(entry.framesOf(group).map((frame) => [frame.line, frame]));
    const out: LineOut[] = (lines[key] = []);
    if (entry.linesEmptied(key)) continue;
    for (const line of entry.lines(key)) {
      if (entry.isBlankLine(key, line)) continue;
      out.push({ line, ...partOf(entry, fields, line, over, frames.get(line)) });
      yield;
    }
  }
  const reason = [movesSaid(entry), savedOver(entry)].filter((s) => s !== undefined).join('\n') || undefined;
  return { ...own, lines, reason, series: entry.seriesTaken };
}

function partOf(
  entry: Entry,
  fields: readonly PlanField[],
  line: number | null,
  over: ReadonlyMap<string, Datum>,
  frame: Frame | undefined,
): PartOut {
  const withheld = fields.flatMap((f) =>
    f.isPersonal && f.definition.column && entry.isWithheld(f.key, line) ? [f.definition.column] : [],
  );
  const origins: Record<string, Origin> = {};
  for (const { key, at, definition } of frame?.fields ?? []) {
    if (!definition.column) continue;
    const { origin } = (frame as Frame).state(at);
    origins[key] = origin.kind === 'stored' ? origin.was : origin;
  }
  return {
    values: columnValues(fields, (key) => entry.value(key, line)),
    origins,
    kinds: kindsIn(fields, (key) => entry.state(key, line).origin.kind),
    gave: overruledIn(fields, (key) => over.get(addressOf(key, line))),
    withheld,
  };
}

/** The values to store, by column. Errors and unknowns of shown fields have been refused; what is hidden is stored as empty then. */
export function columnValues(fields: readonly PlanField[], valueOf: (key: string) => Result): Record<string, Datum> {
  const values: Record<string, Datum> = {};
  for (const { key, definition } of fields) {
    const value = valueOf(key);
    if (definition.column) values[definition.column] = isDatum(value) ? value : null;
  }
  return values;
}
function kindsIn(fields: readonly PlanField[], kindOf: (key: string) => Origin['kind']): Record<string, Origin['kind']> {
  const said: Record<string, Origin['kind']> = {};
  for (const { key, definition } of fields) {
    const kind = kindOf(key);
    if (definition.column && kind !== 'stored' && kind !== 'none') said[definition.column] = kind;
  }
  return said;
}
function overruledIn(fields: readonly PlanField[], gave: (key: string) => Datum | undefined): Record<string, Datum> {
  const said: Record<string, Datum> = {};
  for (const { key, definition } of fields) {
    const value = gave(key);
    if (definition.column && value !== undefined) said[definition.column] = value;
  }
  return said;
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

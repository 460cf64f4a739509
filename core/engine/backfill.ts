import { FormulaError, type Result, Waiting, isDatum } from '../formula/errors.ts';
import { type Datum, same } from '../values/types.ts';
import type { StoredLine, StoredRecord } from './context.ts';
import type { Entry } from './entry.ts';
import type { Frame } from './frame.ts';
import { wantsNeeded } from './needed.ts';
import { type Origin, isByFormula } from '../model/origin.ts';
import type { Plan, PlanField } from './plan.ts';
import { addressOf } from './state.ts';
import { type FieldIssue, verify } from './verify.ts';

/*
 * Giving records that exist what the form would give today (job.md, N23). A backfill goes through the same entry as a
 * person does, so that what follows from a value follows here too, and what could not be saved is not written.
 */

/**
 * Which values may be replaced: only empty ones; those too that the form itself had filled in; or all, typed ones too.
 */
export const OVERS = ['empty', 'filled', 'all'] as const;
export type Over = (typeof OVERS)[number];

/** The fields a backfill can give: those that are saved and have a default, a prefill or a calculation. */
export const fillable = (plan: Plan): readonly PlanField[] => plan.fields.filter((f) => f.value !== null && f.definition.column !== null);

/** One value that a record gets: in its own row (`line` null), or in the row of a line. */
export interface Given {
  readonly field: string;
  readonly line: number | null;
  /** the line's place among its lines, from 1 */
  readonly place: number | null;
  readonly from: Datum;
  readonly to: Datum;
  readonly origin: Origin;
  /** where the stored value came from, if that was noted */
  readonly was: Origin | null;
  /** asked for, or what follows from what was asked for */
  readonly asked: boolean;
}

export interface BackfillOutcome {
  /** all that would be different in the record; empty when nothing would be, or something is in the way */
  readonly given: readonly Given[];
  /** why the record cannot be given what was asked, a sentence for each field; empty when nothing is in the way */
  readonly problems: readonly { readonly field: string; readonly line: number | null; readonly message: string }[];
}

/** Whether a backfill may replace what stands in a field. */
export function mayReplace(value: unknown, origin: Origin, over: Over): boolean {
  if (over === 'all' || value === null) return true;
  return over === 'filled' && isByFormula(origin);
}

/** Fields to be given by a backfill, in the order they depend on each other. `fields` are paths; throws RangeError for one that is none. */
export function toGive(plan: Plan, fields: readonly string[]): readonly PlanField[] {
  const found = fields.map((path) => {
    const field = plan.fields[plan.slots.get(path) ?? -1];
    if (!field) throw new RangeError(`The form has no field “${path}”.`);
    return field;
  });
  const place = ({ slot }: PlanField): number => plan.cellOf.value[slot] as number;
  return found.sort((a, b) => place(a) - place(b));
}

/**
 * Gives fields of an opened record (`toGive`) what their fills give now. It yields whenever the entry wants something (see
 * `wantsNeeded`): answer and go on. Nothing is written; what comes of it is returned. A field of lines is given in every line. `known` is
 * what is wrong with the record before (see `verify`), where it is settled and somebody has asked that already.
 */
export function* backfill(
  entry: Entry,
  record: StoredRecord,
  asked: readonly PlanField[],
  over: Over,
  known?: readonly FieldIssue[],
): Generator<void, BackfillOutcome> {
  while (wantsNeeded(entry).length) yield;
  const before = known ?? verify(entry);
  const problems: BackfillOutcome['problems'][number][] = [];
  const wanted = new Map<string, Datum>();
  for (const field of asked) {
    for (const frame of entry.framesOf(field.group)) {
      const { line } = frame;
      if (line !== null && !(line > 0 && !frame.isBlank)) continue;
      const state = frame.state(field.at);
      if (!mayReplace(state.value, state.origin, over)) continue;
      let value = entry.giveIn(field, frame);
      while (value instanceof Waiting) {
        // what is wanted was answered and it waits still: it hangs on something that cannot be had here
        if (!wantsNeeded(entry).length) break;
        yield;
        value = entry.giveIn(field, frame);
      }
      while (wantsNeeded(entry).length) yield;
      if (value instanceof FormulaError) problems.push({ field: field.key, line, message: value.message });
      else if (value instanceof Waiting)
        problems.push({ field: field.key, line, message: 'The data for this calculation could not be loaded.' });
      else if (value !== undefined) wanted.set(addressOf(field.key, line), value);
    }
  }
  const given = differences(entry, record, wanted);
  // a choice that its list does not offer does not stay
  for (const { field, line, to } of given)
    if (to === null && (wanted.get(addressOf(field, line)) ?? null) !== null)
      problems.push({ field, line, message: 'The new value is not one of this record’s choices.' });
  if (given.length) problems.push(...inTheWay(given, before, verify(entry)));
  if (problems.length) return { given: [], problems };
  return { given: given.some((g) => g.asked) ? given : [], problems: [] };
}

/**
 * What stands in the way of values that were given, of all that is wrong with the record after them: what was wrong before already, and
 * is no doing of theirs, is left alone.
 */
export function inTheWay(
  given: readonly Given[],
  before: readonly FieldIssue[],
  after: readonly FieldIssue[],
): BackfillOutcome['problems'] {
  if (!after.length) return [];
  const standing = new Set(before.map((i) => `${addressOf(i.field, i.line)} ${i.code}`));
  const changed = new Set(given.map((g) => addressOf(g.field, g.line)));
  const inWay = ({ field, line, code }: FieldIssue): boolean => {
    const address = addressOf(field, line);
    return changed.has(address) || !standing.has(`${address} ${code}`);
  };
  return after.filter(inWay).map(({ field, line, message }) => ({ field, line, message }));
}

/** What a save would write that is not in the stored record; `wanted` are the addresses that were given something. */
export function differences(entry: Entry, record: StoredRecord, wanted: ReadonlyMap<string, Datum>): Given[] {
  const found: Given[] = [];
  const compare = (frame: Frame, place: number | null, { values: stored, origins }: StoredRecord | StoredLine): void => {
    for (const { key, at, definition } of frame.fields) {
      const { column } = definition;
      if (!column) continue;
      const value = frame.values[at] as Result;
      const from = stored[column] ?? null;
      const to = isDatum(value) ? value : null;
      if (same(from, to)) continue;
      const { origin } = frame.state(at);
      found.push({
        field: key,
        line: frame.line,
        place,
        from,
        to,
        origin,
        was: origins?.[key] ?? null,
        asked: wanted.has(addressOf(key, frame.line)),
      });
    }
  };
  for (const frame of entry.framesOf(null)) compare(frame, null, record);
  for (const { key, group } of entry.plan.lines) {
    const stored = record.lines?.[key] ?? [];
    if (!stored.length) continue;
    const byLine = new Map(entry.framesOf(group).map((f) => [f.line, f]));
    stored.forEach((line, i) => {
      const frame = byLine.get(line.id);
      if (frame) compare(frame, i + 1, line);
    });
  }
  return found;
}

import type { Result } from '../formula/errors.ts';
import type { Origin } from '../model/origin.ts';
import { type CellChange, addressOf } from './state.ts';

/** What of an entry is told by a moment: whatever else stood otherwise then (what a list offered, row by row) is not kept. */
type FlagKind = 'shown' | 'required' | 'locked' | 'linesShown' | 'linesRequired' | 'linesLocked';
const FLAGS: ReadonlySet<string> = new Set<FlagKind>(['shown', 'required', 'locked', 'linesShown', 'linesRequired', 'linesLocked']);

/** How an entry stood at a moment of its past, as far as that differs from now. Addresses as in `addressOf`. */
export interface Moment {
  readonly values: ReadonlyMap<string, { readonly value: Result; readonly origin: Origin | null }>;
  /** by address: what was said there, all messages in one; null: nothing */
  readonly checks: ReadonlyMap<string, string | null>;
  /** lines that were added since, as `group#line` */
  readonly later: ReadonlySet<string>;
  /** lines that have been taken out since: they are gone, and cannot be shown */
  readonly gone: number;
  /** Whether something was shown, required or locked then; undefined: as it is now. */
  flag(kind: FlagKind, address: string): boolean | undefined;
}

/**
 * How an entry stood after the first `at` of its changes. Takes all changes that are kept of it, oldest first; gives what was otherwise
 * then. Nothing is computed again: what a change tells it changed from is what stood there before it.
 */
export function momentAt(changes: readonly CellChange[], at: number): Moment {
  const values = new Map<string, { value: Result; origin: Origin | null }>();
  const flags = new Map<string, boolean>();
  const checks = new Map<string, string | null>();
  const later = new Set<string>();
  let gone = 0;
  for (const change of changes.slice(at)) {
    const address = addressOf(change.field, change.line);
    const { cell, from } = change;
    if (cell === 'value') {
      if (!values.has(address)) values.set(address, { value: from, origin: null });
    } else if (cell === 'checks') {
      if (!checks.has(address)) checks.set(address, typeof from === 'string' ? from : null);
    } else if (cell === 'lines') {
      if (Number(change.to) > Number(from)) later.add(address);
      else if (Number(change.to) < Number(from)) gone++;
    } else if (FLAGS.has(cell) && typeof from === 'boolean') {
      const key = `${cell} ${address}`;
      if (!flags.has(key)) flags.set(key, from);
    }
  }
  // where a value came from is told by the change that set it
  for (const change of changes.slice(0, at)) {
    if (change.cell !== 'value') continue;
    const known = values.get(addressOf(change.field, change.line));
    if (known) known.origin = change.origin;
  }
  return { values, checks, later, gone, flag: (kind, address) => flags.get(`${kind} ${address}`) };
}

/**
 * Where among changes the next one stands that somebody waits for: one of a field (by its path), of a group of lines (by its key), or of a
 * rule that acted (by its id). Takes the changes, where to begin, and what is waited for. Gives the number of changes up to and with it, or
 * null when there is none.
 */
export function nextStop(changes: readonly CellChange[], from: number, stops: ReadonlySet<string>): number | null {
  if (!stops.size) return null;
  const at = changes.findIndex((c, i) => i >= from && stops.has(c.field) && (c.cell !== 'rule' || c.to === true));
  return at < 0 ? null : at + 1;
}

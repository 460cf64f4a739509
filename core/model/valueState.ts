import type { Result } from '../formula/errors.ts';
import { NO_ORIGIN, type Origin } from './origin.ts';

/** Why a cell is computed: the entry opens, or something it reads has changed. */
export type Reason = 'open' | 'change';

/** A field's value and how it stands. */
export interface ValueState {
  readonly value: Result;
  readonly origin: Origin;
  /** what a prefill or calculation would give now, when it has been computed; undefined when there is none */
  readonly suggestion: Result | undefined;
  /** the choice is not among those offered, and stays because the field says so or because it was stored */
  readonly gone: boolean;
  /** the offer's key when the value was last settled: how "a driver changed" is told from "the list was read again" */
  readonly offerKey: string | null;
  /** the parts that were skipped then */
  readonly offerOpen: readonly number[];
  /** a default that has not been given yet */
  readonly pending: boolean;
  /** a once-only prefill that has been given */
  readonly done: boolean;
}

/** A field nobody and nothing has filled. */
export const UNSET: ValueState = {
  value: null,
  origin: NO_ORIGIN,
  suggestion: undefined,
  gone: false,
  offerKey: null,
  offerOpen: [],
  pending: false,
  done: false,
};

/** A state as an entry opens with it. */
export function opened(value: Result, origin: Origin, pending: boolean, done: boolean): ValueState {
  const { suggestion, gone, offerKey, offerOpen } = UNSET;
  return { value, origin, suggestion, gone, offerKey, offerOpen, pending, done };
}

/** A state filled by its formula. Written out property by property: a spread here costs ten times as much, for every computed cell. */
export function filled(before: ValueState, value: Result, origin: Origin, done: boolean): ValueState {
  if (before.value === value && before.suggestion === value && before.origin === origin && before.done === done) return before;
  return {
    value,
    origin,
    suggestion: value,
    gone: before.gone,
    offerKey: before.offerKey,
    offerOpen: before.offerOpen,
    pending: before.pending,
    done,
  };
}

/** A state that stays, of which is known what its formula would give. */
export function suggested(before: ValueState, suggestion: Result): ValueState {
  if (before.suggestion === suggestion) return before;
  const { value, origin, gone, offerKey, offerOpen, pending, done } = before;
  return { value, origin, suggestion, gone, offerKey, offerOpen, pending, done };
}

/** What of a state can be changed alone. */
type Change = Partial<Omit<ValueState, 'suggestion' | 'done'>>;
/**
 * A state with some of its properties changed. All states are laid out alike: where they are read, for every computed cell,
 * one layout is quick and five are not.
 */
export function changed(before: ValueState, change: Change): ValueState {
  return {
    value: change.value === undefined ? before.value : change.value,
    origin: change.origin ?? before.origin,
    suggestion: before.suggestion,
    gone: change.gone ?? before.gone,
    offerKey: change.offerKey === undefined ? before.offerKey : change.offerKey,
    offerOpen: change.offerOpen ?? before.offerOpen,
    pending: change.pending ?? before.pending,
    done: before.done,
  };
}

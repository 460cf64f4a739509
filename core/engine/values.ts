import type { Result } from '../formula/errors.ts';
import { NO_ORIGIN, type Origin } from './origin.ts';
import type { ValueState } from './state.ts';

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

export const CALCULATED: Origin = Object.freeze({ kind: 'calculation' });
export const PREFILLED: Origin = Object.freeze({ kind: 'prefill' });

/** A state filled by its formula. Written out property by property: a spread here costs ten times as much, for every computed cell. */
export function filled(before: ValueState, value: Result, origin: Origin, done: boolean): ValueState {
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

/**
 * A state with some of its properties changed. All states are laid out alike: where they are read, for every computed cell,
 * one layout is quick and five are not.
 */
export function changed(before: ValueState, change: Partial<ValueState>): ValueState {
  const { value, origin, suggestion, gone, offerKey, offerOpen, pending, done } = { ...before, ...change };
  return { value, origin, suggestion, gone, offerKey, offerOpen, pending, done };
}

import type { Result } from '../../formula/errors.ts';
import type { Origin } from '../../model/origin.ts';
import type { Reason, ValueState } from '../../model/valueState.ts';

/** What a fill finds where it is followed. */
export interface FillPlace {
  /** why it is looked at: the entry opens, or something it reads has changed */
  readonly reason: Reason;
  /** whether anything was done to the entry: what changes before is its being opened */
  readonly isTouched: boolean;
  /** whether a field that it must know first is still empty */
  waits(): boolean;
  /** its formula's result as the field holds it */
  run(): Result;
}

/**
 * How a field fills: everything that depends on which kind of fill it is. A kind is one file in this folder and one line in
 * `index.ts`; the rules are those of the design ("Values and their origin", "Settling").
 */
export interface FillKind<F> {
  /** the origin of what it gives */
  readonly origin: Origin;
  /** a field of it has its formula's value alone: nobody types it, and nothing else sets it */
  readonly locks: boolean;
  /** it gives once, when a record is new: it may take the next number of a series, and may wait for other fields */
  readonly once: boolean;
  /** The value as it has it, from the value as it stood. */
  follow(fill: F, before: ValueState, place: FillPlace): ValueState;
}

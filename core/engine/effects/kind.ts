import type { Result } from '../../formula/errors.ts';
import type { Frame } from '../frame.ts';
import type { PlanField } from '../plan.ts';

/** A field got a value. */
export interface Happened {
  readonly frame: Frame;
  readonly field: PlanField;
  readonly value: Result;
  /** it had another before */
  readonly isNew: boolean;
  /** who gave it: a person, the form itself (a fill, the only choice left), or an effect */
  readonly by: 'hand' | 'form' | 'spread' | 'fillUp' | 'rule';
}

/**
 * What follows in other fields when a field gets a value. An effect is one file in this folder and one line in `index.ts`; it notes what
 * it has to do, and acts when it is its turn.
 */
export interface Effect {
  /** it has something to do, or waits for something it lacks */
  readonly pending: boolean;
  /** it acts before anything is computed, as a part of what was done by hand */
  readonly atOnce: boolean;
  /** whether anything may follow in other fields when a field gets a value; what is noted of other fields comes to nothing */
  follows(field: PlanField): boolean;
  noted(happened: Happened): void;
  /** Acts; what it cannot do yet it keeps. */
  run(): void;
}

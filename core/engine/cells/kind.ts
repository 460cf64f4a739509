import type { Formula } from '../../formula/formula.ts';
import type { Reason } from '../../model/valueState.ts';
import type { Frame } from '../frame.ts';
import type { CellKind, PlanField } from '../plan.ts';
import type { Settling } from '../settling.ts';
import type { Cause } from '../state.ts';

/**
 * One thing of a field that can change: everything that depends on which it is. A kind is one file in this folder, one line in
 * `index.ts`, and its name in `CELL_KINDS`.
 */
export interface CellWays {
  /** Whether a field has such a cell. */
  has(field: PlanField): boolean;
  /** The formulas it computes with. */
  formulas(field: PlanField): readonly Formula[];
  /** Slots it reads beside those of its formulas. */
  slots?(field: PlanField): readonly number[];
  /** the cells of the same field that are computed before it */
  readonly after: readonly CellKind[];
  /** Computes it; what changes is told to the settling. */
  compute(settling: Settling, frame: Frame, field: PlanField, cause: Cause, reason: Reason): void;
}

/** A formula or none, as a list. */
export const given = (f: Formula | null | undefined): readonly Formula[] => (f ? [f] : []);

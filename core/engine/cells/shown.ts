import { waitingParts } from '../../choices/narrowing.ts';
import type { PlanField } from '../plan.ts';
import type { CellWays } from './kind.ts';

/** Whether the field is hidden while its list waits for a driver. */
const waitsHidden = ({ choices }: PlanField): boolean => choices?.source.waiting === 'hide' && (choices.narrowing?.drivers.length ?? 0) > 0;

export const shown: CellWays = {
  has: (field) => field.shown.length > 0 || waitsHidden(field),
  formulas: (field) => field.shown,
  slots: (field) => (waitsHidden(field) ? (field.choices?.narrowing?.drivers ?? []) : []),
  after: [],
  compute(settling, frame, field, cause, reason) {
    const holds = field.shown.every((f) => f.run(frame.env) === true);
    const waits = holds && waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, frame.world.valueAt).size > 0;
    settling.setFlag(frame, frame.shown, 'shown', field, holds && !waits, cause, reason);
  },
};

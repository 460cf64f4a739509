import { waitingParts } from '../../choices/narrowing.ts';
import { allMet, anyShows, formulasIn } from '../conditions.ts';
import type { PlanField } from '../plan.ts';
import type { CellWays } from './kind.ts';

/** Whether the field is hidden while its list waits for a driver. */
const waitsHidden = ({ choices }: PlanField): boolean => choices?.source.waiting === 'hide' && (choices.narrowing?.drivers.length ?? 0) > 0;

export const shown: CellWays = {
  has: (field) => field.shown.length > 0 || field.showing.length > 0 || waitsHidden(field),
  formulas: (field) => [...formulasIn(field.shown), ...formulasIn(field.showing)],
  slots: (field) => (waitsHidden(field) ? (field.choices?.narrowing?.drivers ?? []) : []),
  after: [],
  compute(settling, frame, field, cause, reason) {
    const { mode } = settling.context;
    const holds = allMet(field.shown, frame.env, mode) && anyShows(field.showing, frame.env, mode);
    const waits = holds && waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, frame.world.valueAt).size > 0;
    settling.setFlag(frame, frame.shown, 'shown', field, holds && !waits, cause, reason);
  },
};

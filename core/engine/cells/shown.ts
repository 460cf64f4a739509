import { waitingParts } from '../../choices/narrowing.ts';
import { allMet, anyShows, anyUntold, formulasIn } from '../conditions.ts';
import type { Untold } from '../frame.ts';
import type { PlanField } from '../plan.ts';
import type { CellWays } from './kind.ts';

/** Whether the field is hidden while its list waits for a driver. */
export const waitsHidden = ({ choices }: PlanField): boolean =>
  choices?.source.waiting === 'hide' && (choices.narrowing?.drivers.length ?? 0) > 0;

export const shown: CellWays = {
  has: (field) => field.shown.length > 0 || field.showing.length > 0 || waitsHidden(field),
  formulas: (field) => [...formulasIn(field.shown), ...formulasIn(field.showing)],
  slots: (field) => (waitsHidden(field) ? (field.choices?.narrowing?.drivers ?? []) : []),
  after: [],
  compute(settling, frame, field, cause, reason) {
    const { mode } = settling.context;
    const holds = allMet(field.shown, frame.env, mode) && anyShows(field.showing, frame.env, mode);
    const waits = holds && waitsHidden(field) && waitingParts(field.choices?.narrowing ?? null, frame.world.valueAt).length > 0;
    const to = holds && !waits;
    const before = frame.untold?.get(field.at);
    const isUntold = !holds && (anyUntold(field.shown, frame.env, mode) || anyUntold(field.showing, frame.env, mode));
    const since = before?.reason === 'change' ? before.reason : reason;
    if (isUntold)
      (frame.untold ??= new Map<number, Untold>()).set(field.at, {
        shown: before?.shown ?? (frame.shown[field.at] as boolean),
        reason: since,
      });
    else if (before) frame.untold?.delete(field.at);
    // what is shown after a while as it was before has not changed
    const onward = isUntold || before?.shown === to ? 'open' : since;
    // it may lose its value when it is told
    if (isUntold !== (before !== undefined)) settling.markOwn(frame, 'value', field, onward, cause);
    settling.setFlag(frame, frame.shown, 'shown', field, to, cause, onward);
  },
};

import { anyMet, formulasIn } from '../conditions.ts';
import type { CellWays } from './kind.ts';

export const locked: CellWays = {
  has: (field) => field.locked.length > 0,
  formulas: (field) => formulasIn(field.locked),
  after: [],
  compute(settling, frame, field, cause, reason) {
    settling.setFlag(frame, frame.locked, 'locked', field, anyMet(field.locked, frame.env, settling.context.mode), cause, reason);
  },
};

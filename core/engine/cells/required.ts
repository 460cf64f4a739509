import { anyMet, formulasIn } from '../conditions.ts';
import type { CellWays } from './kind.ts';

export const required: CellWays = {
  has: (field) => field.required.length > 0,
  formulas: (field) => formulasIn(field.required),
  after: ['shown'],
  compute(settling, frame, field, cause, reason) {
    settling.setFlag(frame, frame.required, 'required', field, anyMet(field.required, frame.env, settling.context.mode), cause, reason);
  },
};

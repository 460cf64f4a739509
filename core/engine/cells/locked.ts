import { type CellWays, given } from './kind.ts';

export const locked: CellWays = {
  has: (field) => field.locked !== null,
  formulas: (field) => given(field.locked),
  after: [],
  compute(settling, frame, field, cause, reason) {
    settling.setFlag(frame, frame.locked, 'locked', field, field.locked?.run(frame.env) === true, cause, reason);
  },
};

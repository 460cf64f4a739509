import { type CellWays, given } from './kind.ts';

export const required: CellWays = {
  has: (field) => field.required !== null,
  formulas: (field) => given(field.required),
  after: ['shown'],
  compute(settling, frame, field, cause, reason) {
    settling.setFlag(frame, frame.required, 'required', field, field.required?.run(frame.env) === true, cause, reason);
  },
};

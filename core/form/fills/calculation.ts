import type { z } from 'zod';
import type { Origin } from '../../model/origin.ts';
import { type ValueState, filled, suggested } from '../../model/valueState.ts';
import type { FillKind } from './kind.ts';
import type { calculationSchema } from './schemas.ts';

export const CALCULATED: Origin = Object.freeze({ kind: 'calculation' });

/** Whether a calculation leaves a value as it is stored when its record is opened. */
export const staysAsStored = ({ origin }: ValueState, always: boolean): boolean => origin.kind === 'stored' && !always;

/** A value that is always its formula's; of a stored record it stays as it was until something it reads changes, unless `always`. */
export const calculation: FillKind<z.infer<typeof calculationSchema>> = {
  origin: CALCULATED,
  locks: true,
  once: false,
  follow({ always }, before, place) {
    const suggestion = place.run();
    return place.reason === 'open' && staysAsStored(before, always)
      ? suggested(before, suggestion)
      : filled(before, suggestion, CALCULATED, before.done);
  },
};

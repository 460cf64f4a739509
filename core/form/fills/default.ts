import type { z } from 'zod';
import { FormulaError, Waiting } from '../../formula/errors.ts';
import { NO_ORIGIN, type Origin } from '../../model/origin.ts';
import { changed } from '../../model/valueState.ts';
import type { FillKind } from './kind.ts';
import type { defaultSchema } from './schemas.ts';

const GIVEN: Origin = Object.freeze({ kind: 'default' });

/** A value that a new record starts with. */
export const defaultFill: FillKind<z.infer<typeof defaultSchema>> = {
  origin: GIVEN,
  locks: false,
  once: true,
  follow(_, before, place) {
    // the last record with the same partner cannot be asked for before there is a partner
    if (!before.pending || place.waits()) return before;
    const given = place.run();
    // what could not be had is still to be given when it is asked again
    const missing = given instanceof FormulaError && given.code === 'notAvailable';
    if (given instanceof Waiting || missing) return changed(before, { value: given });
    return changed(before, { value: given, pending: false, origin: given === null ? NO_ORIGIN : GIVEN });
  },
};

import type { z } from 'zod';
import { Waiting, isDatum } from '../../formula/errors.ts';
import { NO_ORIGIN, type Origin, isPersons } from '../../model/origin.ts';
import { filled, suggested } from '../../model/valueState.ts';
import { same } from '../../values/types.ts';
import type { FillKind } from './kind.ts';
import type { prefillSchema } from './schemas.ts';

const PREFILLED: Origin = Object.freeze({ kind: 'prefill' });

/** A value that follows what its formula reads until somebody types over it. */
export const prefill: FillKind<z.infer<typeof prefillSchema>> = {
  origin: PREFILLED,
  locks: false,
  once: false,
  follow({ typedOver, once }, before, place) {
    const suggestion = place.run();
    if (before.origin.kind === 'stored' && place.reason === 'open') return suggested(before, suggestion);
    const { suggestion: last } = before;
    const driverChanged =
      place.reason === 'change' && place.isTouched && last !== undefined && last !== Waiting.value && !same(last, suggestion);
    // what a change elsewhere has set stays like something typed; what it has cleared may fill again
    const held =
      isPersons(before.origin) ||
      ((before.origin.kind === 'spread' || before.origin.kind === 'rule' || before.origin.kind === 'move') && before.value !== null);
    // whether what it would give is another cannot be told yet
    if (held && suggestion === Waiting.value) return before;
    const follows = !(once && before.done) && (!held || (typedOver === 'refill' && driverChanged));
    if (!follows) return suggested(before, suggestion);
    const done = before.done || (isDatum(suggestion) && suggestion !== null);
    return filled(before, suggestion, suggestion === null ? NO_ORIGIN : PREFILLED, done);
  },
};

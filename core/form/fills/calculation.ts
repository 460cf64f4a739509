import type { z } from 'zod';
import type { Origin } from '../../model/origin.ts';
import { changed, filled } from '../../model/valueState.ts';
import type { FillKind } from './kind.ts';
import type { calculationSchema } from './schemas.ts';

export const CALCULATED: Origin = Object.freeze({ kind: 'calculation' });

/** A value that is always its formula's; of a stored record it stays as it was until something it reads changes, unless `always`. */
export const calculation: FillKind<z.infer<typeof calculationSchema>> = {
  origin: CALCULATED,
  locks: true,
  once: false,
  follow({ always }, before, { reason, run }) {
    const suggestion = run();
    const asStored = before.origin.kind === 'stored' && reason === 'open' && !always;
    return asStored ? changed(before, { suggestion }) : filled(before, suggestion, CALCULATED, before.done);
  },
};

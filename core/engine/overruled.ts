import { isLockedByFill } from '../form/fills/index.ts';
import { isDatum } from '../formula/errors.ts';
import { makerOf } from '../model/origin.ts';
import { type Datum, same } from '../values/types.ts';
import { addressOf } from './state.ts';
import type { Settling } from './settling.ts';

/**
 * What fills would give now where a person has decided otherwise, by address: a default or prefill that was typed over or emptied. What
 * was stored before and is untouched is left out; so is what cannot be worked out. Nothing changes.
 */
export function overruled({ frames, lacks }: Settling): ReadonlyMap<string, Datum> {
  const found = new Map<string, Datum>();
  frames.each((field, frame) => {
    if (!field.value || isLockedByFill(field)) return;
    const state = frame.state(field.at);
    if (!state || state.origin.kind === 'stored' || !['person', 'brought'].includes(makerOf(state.origin))) return;
    const { fitted } = field.value;
    lacks.wantedBy(() => {
      const value = fitted(frame.env);
      if (isDatum(value) && value !== null && !same(value, state.value as Datum)) found.set(addressOf(field.key, frame.line), value);
    });
  });
  return found;
}

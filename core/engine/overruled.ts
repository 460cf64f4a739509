import { isLockedByFill } from '../form/fills/index.ts';
import { isDatum } from '../formula/errors.ts';
import { makerOf } from '../model/origin.ts';
import { type Datum, same } from '../values/types.ts';
import type { Settling } from './settling.ts';

/**
 * What fills would give now where a person has decided otherwise, by path: a default or prefill that was typed over or emptied. Fields
 * of lines, and what was stored before and is untouched, are left out; so is what cannot be worked out. Nothing changes.
 */
export function overruled({ plan, frames, lacks }: Settling): ReadonlyMap<string, Datum> {
  const found = new Map<string, Datum>();
  for (const field of plan.own) {
    if (!field.value || isLockedByFill(field)) continue;
    const state = frames.root.states[field.at];
    if (!state || state.origin.kind === 'stored' || !['person', 'brought'].includes(makerOf(state.origin))) continue;
    const { fitted } = field.value;
    lacks.wantedBy(() => {
      const value = fitted(frames.root.env);
      if (isDatum(value) && value !== null && !same(value, state.value as Datum)) found.set(field.key, value);
    });
  }
  return found;
}

import { isLockedByFill } from '../form/fills/index.ts';
import { isDatum } from '../formula/errors.ts';
import { isPersons } from '../model/origin.ts';
import { type Datum, same } from '../values/types.ts';
import { addressOf } from './state.ts';
import type { Settling } from './settling.ts';

/**
 * What fills would give now where a person has decided otherwise, by address: a default or prefill that was typed over or emptied. What
 * was stored before and is untouched is left out; so is what cannot be worked out. Nothing changes. In steps of a line each: nobody may
 * change the entry before it has ended. Cost: every fill that was typed over once.
 */
export function* overruledInSteps({ plan, frames, lacks }: Settling): Generator<void, ReadonlyMap<string, Datum>> {
  const found = new Map<string, Datum>();
  for (const group of [null, ...plan.lines.map((l) => l.group)])
    for (const frame of frames.of(group)) {
      for (const field of frame.fields) {
        if (!field.value || isLockedByFill(field)) continue;
        const state = frame.state(field.at);
        if (state.origin.kind === 'stored' || !isPersons(state.origin)) continue;
        const { fitted } = field.value;
        lacks.wantedBy(() => {
          const value = fitted(frame.env);
          if (isDatum(value) && value !== null && !same(value, state.value as Datum)) found.set(addressOf(field.key, frame.line), value);
        });
      }
      yield;
    }
  return found;
}

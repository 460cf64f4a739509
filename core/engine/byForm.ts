import { isLockedByFill } from '../form/fills/index.ts';
import { fitValue } from '../form/fit.ts';
import { type Result, isDatum } from '../formula/errors.ts';
import type { Origin } from '../model/origin.ts';
import { changed } from '../model/valueState.ts';
import { same } from '../values/types.ts';
import type { Frame } from './frame.ts';
import type { PlanField } from './plan.ts';
import type { Settling } from './settling.ts';
import type { Cause } from './state.ts';

/**
 * Gives a field a value that the form gives it, by a rule or a move, whatever may be typed in it. What stands there already is left to
 * whoever put it there; so is a calculation, and with `once` what is filled.
 */
export function giveByForm(
  settling: Settling,
  { frame, field }: { readonly frame: Frame; readonly field: PlanField },
  value: Result,
  { origin, cause, once }: { readonly origin: Origin; readonly cause: Cause; readonly once: boolean },
): void {
  const before = frame.state(field.at);
  if ((once && before.value !== null) || isLockedByFill(field)) return;
  const fitted = isDatum(value) ? fitValue(field.definition, field.column, value) : value;
  if (same(before.value, fitted)) return;
  const next = changed(before, { value: fitted, origin, gone: false, offerKey: null, pending: false });
  settling.setState(frame, field, next, cause, 'change');
  settling.markOwn(frame, 'value', field, 'change', cause);
  settling.effects.noted({ frame, field, value: fitted, isNew: true, by: 'rule' });
}

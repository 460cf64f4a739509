import { Waiting, isDatum } from '../formula/errors.ts';
import type { Datum } from '../values/types.ts';
import { isSeveral } from '../model/tables.ts';
import { isLockedByFill } from '../form/fills/index.ts';
import { isPersons } from '../model/origin.ts';
import { UNKNOWN } from './offers.ts';
import type { Plan, PlanField } from './plan.ts';
import type { Offer } from './state.ts';
import { type Reason, type ValueState, changed } from '../model/valueState.ts';

/*
 * What becomes of a value when what it rests on has changed: pure functions from a state to the next. The rules are those
 * of engine.md ("Values and their origin", "Settling" 3) and job.md (N10).
 */

/** What `treatChoice` asks of the entry. */
export interface ChoiceWorld {
  readonly plan: Plan;
  readonly offer: Offer;
  readonly reason: Reason;
  isOffered(value: Datum): boolean | Waiting;
}

/** What becomes of a choice when its list has changed. */
export function treatChoice(field: PlanField, state: ValueState, world: ChoiceWorld): ValueState {
  const { offer, reason } = world;
  const { source, narrowing } = field.choices as NonNullable<PlanField['choices']>;
  const { value } = state;
  if (!isDatum(value)) return state;
  const untouched = state.origin.kind === 'stored' && (reason === 'open' || state.offerKey === null || state.offerKey === offer.key);
  const driverChanged = state.offerKey !== null && state.offerKey !== offer.key;
  const loading = offer.status === 'loading';
  // what it was chosen from is known before the rows are: a driver that changes meanwhile has changed
  const isFirst = state.offerKey === null && offer.key !== UNKNOWN;
  const isSame = (loading && !isFirst) || (state.offerKey === offer.key && state.offerOpen === offer.open);
  const settled = isSame ? state : changed(state, { offerKey: offer.key, offerOpen: offer.open });
  // a driver was emptied: the list may offer all again, but the choice has lost what it belonged to
  const orphaned =
    driverChanged &&
    source.onDriverChange !== 'keep' &&
    offer.open.some((p) => !narrowing?.parts[p]?.through && !state.offerOpen.includes(p));
  if (value !== null) {
    if (!loading && (orphaned || (source.onDriverChange === 'clear' && driverChanged))) return cleared(field, settled, world);
    const lost = lostOf(value, world);
    if (lost instanceof Waiting) return isFirst ? settled : state;
    if (!lost.length) return settled.gone ? changed(settled, { gone: false }) : settled;
    // what came with the address or was carried over must fit or go; what a hand chose stays, flagged
    const byHand = state.origin.kind !== 'url' && state.origin.kind !== 'carried';
    const justChosen = byHand && isPersons(state.origin) && !driverChanged;
    if (untouched || justChosen || source.onDriverChange === 'keep' || isLockedByFill(field)) return changed(settled, { gone: true });
    return cleared(field, settled, world, Array.isArray(value) ? (value as readonly Datum[]).filter((v) => !lost.includes(v)) : []);
  }
  const only = onlyOne(field, offer);
  const wasEmptied = (state.origin.kind === 'emptied' || untouched) && !driverChanged;
  if (only !== null && !wasEmptied && !isLockedByFill(field)) {
    return changed(settled, { value: only, origin: { kind: 'onlyOne' }, gone: false });
  }
  return settled;
}

/** The chosen values that are not offered; one for a single choice. */
function lostOf(value: Datum, world: ChoiceWorld): readonly Datum[] | Waiting {
  const lost: Datum[] = [];
  for (const one of Array.isArray(value) ? (value as readonly Datum[]) : [value]) {
    const offered = world.isOffered(one);
    if (offered instanceof Waiting) return offered;
    if (!offered) lost.push(one);
  }
  return lost;
}

function onlyOne(field: PlanField, offer: Offer): Datum {
  if (field.choices?.source.single !== 'take' || offer.status !== 'ready' || offer.total !== 1 || offer.only === null) return null;
  return isSeveral(field.definition.type) ? [offer.only] : offer.only;
}

/** Cleared because no longer offered: of several, those that are stay; else the only one left is taken where the field says so. */
function cleared(field: PlanField, state: ValueState, { plan, offer }: ChoiceWorld, stay: readonly Datum[] = []): ValueState {
  if (stay.length) return changed(state, { value: stay, gone: false });
  const only = onlyOne(field, offer);
  if (only !== null) return changed(state, { value: only, origin: { kind: 'onlyOne' }, gone: false });
  const by = (field.choices?.narrowing?.drivers ?? []).map((s) => (plan.fields[s] as PlanField).key);
  return changed(state, { value: null, origin: { kind: 'cleared', by }, gone: false });
}

import { CALCULATED, followFill, isLockedByFill, staysStored } from '../../form/fills/index.ts';
import { type Result, Waiting } from '../../formula/errors.ts';
import type { FillPlace } from '../../form/fills/kind.ts';
import { FILES } from '../../model/tables.ts';
import { fileNumbers, holdsFiles } from '../../values/kinds/index.ts';
import { type Reason, type ValueState, changed, filled } from '../../model/valueState.ts';
import type { Datum } from '../../values/types.ts';
import { anyWaits, formulasIn, losesHidden, mayLose } from '../conditions.ts';
import type { Formula } from '../../formula/formula.ts';
import type { Frame } from '../frame.ts';
import type { PlanField, PlanValue } from '../plan.ts';
import type { Settling } from '../settling.ts';
import { isOffered, wasOffered } from '../offers.ts';
import type { Offer } from '../state.ts';
import { treatChoice } from '../treat.ts';
import { type CellWays, given } from './kind.ts';

export const value: CellWays = {
  has: () => true,
  formulas: (field) => [...given(field.value?.formula), ...hidingFormulas(field)],
  after: ['shown', 'choices'],
  compute(settling, frame, field, cause, reason) {
    // most cells of a form: a calculation that is shown and chooses nothing; what stands below comes to the same
    if (field.isPlain && frame.shown[field.at] && !frame.isAside(field.at)) {
      if (frame.isCalculated(field.at)) {
        const now = (field.value as PlanValue).fitted(frame.env);
        settling.setCalculated(frame, settling.valueCell(field), field.at, now, cause, reason);
        return;
      }
      const before = frame.state(field.at);
      if (before.origin.kind !== 'stored') {
        const now = (field.value as PlanValue).fitted(frame.env);
        settling.setState(frame, field, filled(before, now, CALCULATED, before.done), cause, reason);
        return;
      }
    }
    const before = frame.known(field.at);
    const { env } = frame;
    const { mode } = settling.context;
    const isHidden = !frame.shown[field.at];
    const cleared = isHidden && losesHidden(field, env, mode);
    // whether it is emptied is not known yet, and so its value is not
    const isOpen = isHidden && !cleared && mayLose(field) && (anyWaits(field.shown, env, mode) || anyWaits(field.showing, env, mode));
    // a default is kept for the moment the field is first shown
    let next = (cleared || isOpen) && before.pending ? before : followed(settling, frame, field, before, reason);
    if (field.choices) next = treated(settling, frame, field, next, reason);
    // what it would have come to, and so whether hiding took anything, is not known yet
    if (cleared && next.value === Waiting.value) next = changed(next, { value: null, origin: before.origin, gone: false });
    else if (cleared && (next.value !== null || before.origin.kind === 'hidden'))
      next = changed(next, { value: null, origin: { kind: 'hidden' }, gone: false });
    // what is known of a file is fetched, so that it can be shown and judged
    if (holdsFiles(field.definition.type)) for (const id of fileNumbers(next.value)) settling.frames.row(FILES, id);
    const isAside = isOpen
      ? next.value !== null || next.pending
      : !cleared && reason === 'open' && settling.lacks.any && staysStored(field, next) && readsWhatWaits(settling, frame, field);
    settling.setState(frame, field, isAside ? changed(next, { value: Waiting.value }) : next, cause, reason);
    if (isAside) frame.putAside(field.at, next);
    if (isOpen) return;
    const given = next.origin.kind === 'onlyOne' || (next.origin.kind === field.value?.kind && !isLockedByFill(field));
    if (given && next.value !== before.value) settling.effects.noted({ frame, field, value: next.value, isNew: true, by: 'form' });
  },
};

const NO_READS: Pick<Formula, 'slots' | 'lists'> = { slots: [], lists: { groups: [], slots: [] } };
/**
 * Whether a formula reads what waits: a stored value that it leaves as it is may yet be calculated anew, and what rests on that would go by
 * a value that may be none. Cost: its slots, those of lines in every line.
 */
function readsWhatWaits({ frames, plan }: Settling, frame: Frame, { value: fill }: PlanField): boolean {
  // one that is broken reads nothing
  const { slots, lists } = fill?.formula ?? NO_READS;
  const waits = (slot: number): boolean => {
    const { group, at } = plan.fields[slot] as PlanField;
    return frames.of(group).some((line) => line.values[at] === Waiting.value);
  };
  return slots.some((slot) => frame.world.valueAt(slot) === Waiting.value) || lists.slots.some(waits);
}

/** Where it depends on what hides the field whether it loses its value, it is asked when that changes. */
function hidingFormulas({ shown, showing, definition }: PlanField): readonly Formula[] {
  const all = [...shown, ...showing];
  return all.some((c) => c.empties !== (definition.hiddenValue === 'clear')) ? formulasIn(all) : [];
}

function followed(
  { isEdited, isGiven }: Settling,
  frame: Frame,
  { value: fill }: PlanField,
  before: ValueState,
  reason: Reason,
): ValueState {
  if (!fill) return before;
  return followFill(fill.definition, before, PLACE.at(frame, fill, reason, isEdited || isGiven));
}
class Place implements FillPlace {
  private frame: Frame | null = null;
  private fill: PlanValue | null = null;
  reason: Reason = 'open';
  isTouched = false;

  at(frame: Frame, fill: PlanValue, reason: Reason, isTouched: boolean): this {
    this.frame = frame;
    this.fill = fill;
    this.reason = reason;
    this.isTouched = isTouched;
    return this;
  }
  waits(): boolean {
    const { valueAt } = (this.frame as Frame).world;
    return (this.fill as PlanValue).awaits.some((slot) => valueAt(slot) === null);
  }
  run(): Result {
    return (this.fill as PlanValue).fitted((this.frame as Frame).env);
  }
}
/** One for all: nobody keeps it, and no formula makes another value follow. */
const PLACE = new Place();

function treated(settling: Settling, frame: Frame, field: PlanField, state: ValueState, reason: Reason): ValueState {
  // people know a row by its shown column, so the row of a choice is always fetched
  if (field.choices?.large)
    for (const one of Array.isArray(state.value) ? (state.value as readonly Datum[]) : [state.value])
      settling.frames.candidate(frame, field, one);
  if (settling.effects.holds(frame, field)) return state;
  const offer = frame.offers[field.at] as Offer;
  // as `treatChoice` has it, of what is as it was when it was looked at last
  const isAsBefore = state.offerKey === offer.key && state.offerOpen === offer.open && !state.gone;
  if (isAsBefore && wasOffered(offer, state.value)) return state;
  return treatChoice(field, state, { plan: settling.plan, offer, reason, isOffered: (one) => isOffered(field, offer, one, frame.world) });
}

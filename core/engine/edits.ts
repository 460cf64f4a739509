import { fillOrigin, isLockedByFill } from '../form/fills/index.ts';
import { fitValue } from '../form/fit.ts';
import { ENTERED, NO_ORIGIN, type Origin } from '../model/origin.ts';
import { UNSET, type ValueState } from '../model/valueState.ts';
import type { Result } from '../formula/errors.ts';
import { same } from '../values/types.ts';
import type { Frame } from './frame.ts';
import type { PlanField, PlanLines } from './plan.ts';
import type { Settling } from './settling.ts';
import type { Cause, Edit } from './state.ts';

/* What an edit does, once it may be made; it is judged when everything it reads has settled. */

const BY_HAND: Cause = { kind: 'edit' };
export type LinesEdit = Extract<Edit, { kind: 'addLine' | 'removeLine' | 'moveLine' }>;
export type MoveEdit = Extract<Edit, { kind: 'move' | 'unmove' }>;
export type FieldEdit = Exclude<Edit, LinesEdit | MoveEdit>;
export const isOfSteps = (edit: Edit): edit is MoveEdit => edit.kind === 'move' || edit.kind === 'unmove';
export const isOfLines = (edit: Edit): edit is LinesEdit =>
  edit.kind === 'addLine' || edit.kind === 'removeLine' || edit.kind === 'moveLine';

/** The value that an edit gives a field, as the field holds it. */
function givenBy(edit: FieldEdit, field: PlanField, { suggestion = null }: ValueState): Result {
  if (edit.kind === 'takeSuggestion') return suggestion;
  return edit.kind === 'clear' ? null : fitValue(field.definition, field.column, edit.value);
}
function originBy(edit: FieldEdit, field: PlanField, value: Result): Origin {
  // to take nothing is no origin, but for a field that is its formula's alone
  if (edit.kind === 'takeSuggestion')
    return field.value && (value !== null || isLockedByFill(field)) ? fillOrigin(field.value.kind) : NO_ORIGIN;
  const by = edit.kind === 'set' ? edit.by : undefined;
  return ENTERED[value === null ? 'emptied' : (by ?? (field.choices ? 'chosen' : 'typed'))];
}

/** A field is given a value, is emptied, or takes what its fill suggests. */
export function editField(settling: Settling, edit: FieldEdit, field: PlanField, frame: Frame): void {
  const state = frame.state(field.at);
  const offer = frame.offers[field.at];
  const value = givenBy(edit, field, state);
  // property by property: people wait for every one of these, and nothing else is made on the way
  const next: ValueState = {
    value,
    origin: originBy(edit, field, value),
    suggestion: state.suggestion,
    gone: false,
    offerKey: offer?.key ?? null,
    offerOpen: offer?.open ?? UNSET.offerOpen,
    pending: edit.kind === 'takeSuggestion' && state.pending,
    done: state.done,
  };
  settling.setState(frame, field, next, BY_HAND, 'change');
  // judged once everything above has settled: a forged choice is flagged, a hidden field cleared
  settling.markOwn(frame, 'value', field, 'change', BY_HAND);
  if (!settling.effects.follows(field)) return;
  const isNew = !same(state.value, value);
  // a suggestion that is taken fills nothing up: it was worked out from what stands above
  settling.effects.noted({ frame, field, value: edit.kind === 'takeSuggestion' ? null : value, isNew, by: 'hand' });
  settling.effects.runAtOnce();
}

/** A line is added, taken out, or moved. */
export function editLines(settling: Settling, edit: LinesEdit, { group, key }: PlanLines): void {
  const { plan, frames, dirty, trace, lacks, keys } = settling;
  const from = frames.lines.of(group).length;
  if (edit.kind === 'addLine') {
    const frame = frames.lines.add(group, edit.line, edit.at ?? null);
    for (const cell of plan.cells) if (cell.group === group) dirty.mark(frame, cell.id, 'change', BY_HAND);
  } else if (edit.kind === 'removeLine') {
    const { no } = frames.lines.remove(group, edit.line);
    lacks.forget((cell) => keys.frameOf(cell) === no);
  } else frames.lines.move(group, edit.line, edit.to);
  trace.note(key, edit.line, 'lines', BY_HAND, from, frames.lines.of(group).length);
  settling.markDependents(frames.root, 'lines', group, 'change');
}

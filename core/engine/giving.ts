import { fillOrigin, givesOnce, isLockedByFill } from '../form/fills/index.ts';
import { type Result, Waiting, isDatum } from '../formula/errors.ts';
import type { ValueState } from '../model/valueState.ts';
import { same } from '../values/types.ts';
import { losesHidden } from './conditions.ts';
import type { Frame } from './frame.ts';
import type { PlanField, PlanValue } from './plan.ts';
import type { Settling } from './settling.ts';

/**
 * Gives a field what its fill gives now, whatever stands in it. Returns the value given; undefined when there is nothing to give (no
 * fill, hidden as far as is known, or one that may be typed and is empty); Waiting while something is wanted; or the error that it comes
 * to, which changes nothing. What changes is still to be settled.
 */
export function giveFill(settling: Settling, field: PlanField, frame: Frame): Result | undefined {
  if (!field.value) return undefined;
  if (!frame.shown[field.at] && (frame.untold?.has(field.at) || losesHidden(field, frame.env, settling.context.mode))) return undefined;
  const before = frame.state(field.at);
  const value = worthOf(settling, field, field.value, frame, before);
  if (!isDatum(value)) return value;
  if (value === null && !isLockedByFill(field)) return undefined;
  const origin = fillOrigin(field.value.kind);
  const offer = frame.offers[field.at];
  const next: ValueState = {
    value,
    origin,
    suggestion: givesOnce(field) ? undefined : value,
    gone: false,
    offerKey: offer?.key ?? null,
    offerOpen: offer?.open ?? [],
    pending: false,
    done: true,
  };
  settling.isGiven = true;
  settling.setState(frame, field, next, { kind: 'supply' }, 'change');
  const changesNothing = same(before.value, value) && before.origin.kind === origin.kind;
  // a calculation that chooses nothing would come to what was just given
  if (!changesNothing && !(field.isPlain && frame.shown[field.at])) settling.markOwn(frame, 'value', field, 'change', { kind: 'supply' });
  return value;
}

/** What a fill gives now: as the entry worked it out last, which is kept settled; or worked out here, when it gives once or asked for something. */
function worthOf({ plan, lacks, keys }: Settling, field: PlanField, fill: PlanValue, frame: Frame, { suggestion }: ValueState): Result {
  if (suggestion !== undefined && isDatum(suggestion) && !givesOnce(field)) return suggestion;
  lacks.begin();
  const value = fill.fitted(frame.env);
  lacks.end('giving', 'change');
  // what it comes to all the same hangs on nothing more ("yes OR something that waits")
  if (!(value instanceof Waiting)) lacks.none('giving');
  if (isDatum(value)) lacks.credit(keys.of(plan.cellOf.value[field.slot] as number, frame));
  return value;
}

/** The numbers of series that values rest on, by the name of the series: what a save takes. */
export function seriesTaken({ plan, lacks, keys, frames }: Settling): ReadonlyMap<string, number> {
  const taken = new Map<string, number>();
  for (const [key, numbers] of lacks.numbersRead) {
    const frame = frames.numbered(keys.frameOf(key));
    const field = plan.fields[plan.cells[keys.cellOf(key)]?.slot ?? -1];
    const state = field && frame?.alive ? frame.state(field.at) : undefined;
    // a number that was typed over is not taken
    if (field?.value && givesOnce(field) && state?.value !== null && state?.origin.kind === field.value.kind)
      for (const [name, number] of numbers) taken.set(name, number);
  }
  return taken;
}

/** Feeds that a value waits for. */
export function feedsAwaited({ plan, lacks, keys }: Settling): ReadonlySet<string> {
  const awaited = new Set<string>();
  for (const [who, { wants }] of lacks.each) {
    if (typeof who === 'number' && plan.cells[keys.cellOf(who)]?.kind !== 'value') continue;
    for (const want of wants.values()) if (want.kind === 'feed') awaited.add(want.feed);
  }
  return awaited;
}

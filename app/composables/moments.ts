import { UNSET } from '~~/core/model/valueState.ts';
import { type Moment, momentAt, nextStop } from '~~/core/engine/moment.ts';
import type { CellChange } from '~~/core/engine/state.ts';
import { isDatum, isFormulaError, isWaiting } from '~~/core/formula/errors.ts';

/* Moments of an entry's past: how its fields stood then, and stopping where something changes. */

/** A field as it stood at a moment. What a list offered then is not known, nor what else would have been said. */
export function viewThen(now: FieldView, moment: Moment, address: string): FieldView {
  const then = moment.values.get(address);
  const shown = moment.flag('shown', address) ?? now.shown;
  const said = moment.checks.get(address);
  const [first] = now.field.checks;
  const isSaidHere = now.field.checks.every((c) => c.at.kind === 'field');
  return {
    ...now,
    shown,
    required: (moment.flag('required', address) ?? now.required) && shown,
    locked: moment.flag('locked', address) ?? now.locked,
    checks:
      said === undefined ? now.checks : said !== null && first && isSaidHere ? [{ message: said, severity: first.severity, at: first.at }] : [],
    ...(then && {
      value: isDatum(then.value) ? then.value : null,
      error: isFormulaError(then.value) ? then.value.message : null,
      waiting: isWaiting(then.value),
      state: { ...UNSET, value: then.value, origin: then.origin ?? { kind: 'none' } },
      differs: false,
    }),
  };
} // prettier-ignore

/** Lines as they stood at a moment; those taken out since cannot be shown. */
export const linesThen = (now: ReturnType<EntryHost['lines']>, moment: Moment, key: string): ReturnType<EntryHost['lines']> => ({
  ids: now.ids.filter((id) => !moment.later.has(`${key}#${id}`)),
  shown: moment.flag('linesShown', key) ?? now.shown,
  required: moment.flag('linesRequired', key) ?? now.required,
  locked: moment.flag('linesLocked', key) ?? now.locked,
});

/** A change, by the call it was in and its place there. */
export interface ChangeAt {
  readonly step: number;
  readonly index: number;
}

/**
 * Looks at an entry as it stood after one of its changes: goes there, a change forward or back, and stops by itself where a change comes
 * that is waited for. While one looks, the entry itself is as it is: what is typed is typed now, and ends the looking.
 */
export function useMoments(host: EntryHost) {
  /** fields (by path), groups of lines (by key) and rules (by id) whose changes are stopped at */
  const stops = shallowRef<ReadonlySet<string>>(new Set());
  const point = shallowRef<ChangeAt | null>(null);
  /** all changes that are kept, oldest first */
  const all = computed((): readonly (ChangeAt & { change: CellChange })[] =>
    host.steps.value.toReversed().flatMap((s) => s.change.changes.map((change, index) => ({ step: s.number, index, change }))),
  );
  const changes = computed(() => all.value.map((c) => c.change));
  /** how many of them had happened at the moment that is looked at; null: it is now */
  const position = computed(() => {
    const p = point.value;
    const at = p === null ? -1 : all.value.findIndex((c) => c.step === p.step && c.index === p.index);
    return at < 0 ? null : at + 1;
  });
  let isHushed = false;
  /** whether what happens belongs to something done by hand, and not to playing it again */
  let isArmed = false;

  const goTo = (to: ChangeAt | null): void => void (point.value = to);
  function goToPosition(to: number): void {
    const found = all.value[to - 1];
    if (found) goTo({ step: found.step, index: found.index });
  }
  watch(
    [position, changes],
    ([at]) => {
      if (at !== null) host.look(momentAt(changes.value, at));
      else if (host.moment.value) host.look(null);
    },
    { flush: 'sync' },
  );
  watch(
    host.steps,
    ([newest]) => {
      if (!newest) return goTo(null);
      const { kind } = newest.change.what;
      if (kind === 'edit' || kind === 'open') isArmed = kind === 'edit' && !isHushed;
      // what is done is done now
      if (kind === 'edit') goTo(null);
      if (!isArmed || point.value) return;
      const at = nextStop(newest.change.changes, 0, stops.value);
      if (at !== null) goTo({ step: newest.number, index: at - 1 });
    },
    { flush: 'sync' },
  );

  return {
    stops,
    point,
    position,
    count: computed(() => all.value.length),
    /** what happened last at the moment that is looked at */
    current: computed(() => (position.value === null ? null : (all.value[position.value - 1] ?? null))),
    goTo,
    /** A change forward (1) or back (-1). */
    step(by: 1 | -1): void {
      const at = position.value ?? all.value.length;
      goToPosition(Math.min(all.value.length, Math.max(1, at + by)));
    },
    /** On to the next stop; to now, when there is none. */
    goOn(): void {
      const next = position.value === null ? null : nextStop(changes.value, position.value, stops.value);
      if (next === null) goTo(null);
      else goToPosition(next);
    },
    toggleStop(key: string): void {
      const next = new Set(stops.value);
      if (!next.delete(key)) next.add(key);
      stops.value = next;
    },
    /** Does something at whose changes nobody wants to stop: what was tried is played again. */
    hush(act: () => void): void {
      isHushed = true;
      try {
        act();
      } finally {
        isHushed = false;
      }
    },
  };
}

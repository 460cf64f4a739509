import { fitValue } from '../../form/fit.ts';
import { type Result, Waiting, isDatum } from '../../formula/errors.ts';
import { changed } from '../../model/valueState.ts';
import { same } from '../../values/types.ts';
import type { Frame } from '../frame.ts';
import type { PlanField } from '../plan.ts';
import type { Settling } from '../settling.ts';
import type { Cause } from '../state.ts';
import type { Effect, Happened } from './kind.ts';

/** What a change by hand sets and clears in other fields, and what those set in turn. */
export class Spread implements Effect {
  readonly atOnce = false;
  private readonly changedFields: { readonly frame: Frame; readonly field: PlanField }[] = [];

  constructor(private readonly settling: Settling) {}

  get pending(): boolean {
    return this.changedFields.length > 0;
  }
  follows({ spreads }: PlanField): boolean {
    return spreads.length > 0;
  }
  noted({ frame, field, isNew, by }: Happened): void {
    if (isNew && (by === 'hand' || by === 'spread') && field.spreads.length) this.changedFields.push({ frame, field });
  }

  run(): void {
    const { lacks, dirty } = this.settling;
    // what is set elsewhere is computed from settled values
    if (dirty.size) return;
    const later: typeof this.changedFields = [];
    lacks.begin();
    for (let next = this.changedFields.shift(); next; next = this.changedFields.shift()) {
      if (next.frame.alive && this.spread(next.frame, next.field) === 'waiting') later.push(next);
      // each settles before the next is computed
      if (dirty.size) break;
    }
    lacks.end('spread', 'change');
    this.changedFields.push(...later);
  }

  private spread(frame: Frame, field: PlanField): 'done' | 'waiting' {
    const { plan, frames } = this.settling;
    const sets: { target: PlanField; value: Result }[] = [];
    for (const { slot, formula, when } of field.spreads) {
      const met = when ? when.run(frame.env) : true;
      const value = met === true && formula ? formula.run(frame.env) : null;
      if (met instanceof Waiting || value instanceof Waiting) return 'waiting';
      if (met === true) sets.push({ target: plan.fields[slot] as PlanField, value });
    }
    for (const { target, value } of sets) {
      const home = frames.home(target, frame);
      const before = home.state(target.at);
      const fitted = isDatum(value) ? fitValue(target.definition, target.column, value) : value;
      const isNew = !same(before.value, fitted);
      if (!isNew && before.origin.kind === 'spread') continue;
      const cause: Cause = { kind: 'cell', field: field.key, cell: 'value' };
      const origin = { kind: 'spread', from: field.key } as const;
      const next = changed(before, { value: fitted, origin, gone: false, offerKey: null, pending: false });
      this.settling.setState(home, target, next, cause, 'change');
      this.settling.markOwn(home, 'value', target, 'change', cause);
      this.settling.effects.noted({ frame: home, field: target, value: fitted, isNew, by: 'spread' });
    }
    return 'done';
  }
}

import type { Frame } from '../frame.ts';
import type { PlanField } from '../plan.ts';
import type { Result } from '../../formula/errors.ts';
import type { Settling } from '../settling.ts';
import { FillUp } from './fillUp.ts';
import type { Effect, Happened } from './kind.ts';
import { type RuleMoment, Rules } from './rules.ts';
import { Spread } from './spread.ts';

/** Every effect, in the order in which they act. */
const EFFECTS = { fillUp: FillUp, spread: Spread, rules: Rules } satisfies Record<string, new (settling: Settling) => Effect>;
type EffectName = keyof typeof EFFECTS;

/** The effects of one entry. */
export class Effects {
  private readonly by: { readonly [K in EffectName]: InstanceType<(typeof EFFECTS)[K]> };
  private readonly all: readonly Effect[];

  constructor(settling: Settling) {
    this.by = { fillUp: new EFFECTS.fillUp(settling), spread: new EFFECTS.spread(settling), rules: new EFFECTS.rules(settling) };
    this.all = Object.values(this.by);
  }

  get pending(): boolean {
    for (const effect of this.all) if (effect.pending) return true;
    return false;
  }
  /** Whether anything may follow in other fields when a field gets a value: else that need not be noted. */
  follows(field: PlanField): boolean {
    for (const effect of this.all) if (effect.follows(field)) return true;
    return false;
  }
  /** A field got a value: each effect notes what it has to do. */
  noted(happened: Happened): void {
    for (const effect of this.all) effect.noted(happened);
  }
  /** A moment has come for rules. */
  moment(at: RuleMoment): void {
    this.by.rules.moment(at);
  }
  /** A field has another value: rules may look at it. */
  changed(field: PlanField, value: Result): void {
    this.by.rules.changed(field, value);
  }
  /** A settle begins. */
  begin(): void {
    this.by.rules.begin();
  }
  /** Those act that belong to what was done by hand. */
  runAtOnce(): void {
    for (const effect of this.all) if (effect.atOnce && effect.pending) effect.run();
  }
  run(): void {
    for (const effect of this.all) if (effect.pending) effect.run();
  }
  /** Whether a field's own list cannot judge it yet, since it waits to be filled up from. */
  holds(frame: Frame, field: PlanField): boolean {
    return this.by.fillUp.holds(frame, field);
  }
}

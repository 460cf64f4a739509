import { type Result, Waiting } from '../../formula/errors.ts';
import { giveByForm } from '../byForm.ts';
import { MAX_LINES } from '../lineFrames.ts';
import type { PlanField, PlanLines } from '../plan.ts';
import type { PlanAct, PlanRule } from '../rules.ts';
import type { Settling } from '../settling.ts';
import type { Cause } from '../state.ts';
import type { Effect } from './kind.ts';

/** A moment at which rules act. */
export type RuleMoment = 'opens' | 'saves';

interface Given {
  readonly slot: number;
  readonly value: Result;
}

/**
 * What rules do to values, at the moments they name. When everything has settled, the first rule that is due is asked and acts; what it
 * set settles before the next. In one settle each acts at most once (engine.md, "Settling").
 */
export class Rules implements Effect {
  readonly atOnce = false;
  /** rules by number, with what made them due */
  private readonly due = new Map<number, Cause>();
  private readonly acted = new Set<number>();

  constructor(private readonly settling: Settling) {}

  get pending(): boolean {
    return this.due.size > 0;
  }
  follows(): boolean {
    return false;
  }
  noted(): void {
    // rules look at every change of a value, not only at what is entered: see `changed`
  }
  /** A moment has come for all rules that name it. */
  moment(at: RuleMoment): void {
    for (const rule of this.settling.plan.rules)
      if (rule.definition[at] && this.isOfMode(rule)) this.due.set(rule.number, at === 'opens' ? { kind: 'open' } : { kind: 'edit' });
  }
  /** A field has another value. */
  changed(field: PlanField, value: Result): void {
    if (field.slot === this.settling.plan.steps?.slot) this.reached(value);
    for (const place of this.settling.plan.triggered[field.slot] ?? []) {
      const rule = this.settling.plan.rules[place] as PlanRule;
      if (!this.acted.has(rule.number) && !this.due.has(rule.number) && this.isOfMode(rule))
        this.due.set(rule.number, { kind: 'cell', field: field.key, cell: 'value' });
    }
  }
  /** The record has come to another step. */
  reached(step: Result): void {
    for (const rule of this.settling.plan.rules)
      if (rule.definition.reaches.some((r) => r === step) && !this.acted.has(rule.number) && this.isOfMode(rule))
        this.due.set(rule.number, { kind: 'cell', field: this.settling.plan.steps?.definition.field ?? '', cell: 'value' });
  }
  private isOfMode({ definition: { mode } }: PlanRule): boolean {
    // nothing is changed where an entry is only looked at
    if (this.settling.context.mode === 'view' || this.settling.context.isQuiet) return false;
    return mode === 'both' || (mode === 'new') === (this.settling.context.mode === 'new');
  }
  /** A settle begins: each rule may act again. */
  begin(): void {
    if (this.acted.size) this.acted.clear();
  }

  run(): void {
    const { lacks, dirty, plan } = this.settling;
    if (dirty.size) return;
    lacks.begin();
    for (const rule of plan.rules) {
      const why = this.due.get(rule.number);
      if (!why) continue;
      const began = this.settling.trace.clock?.();
      const outcome = this.act(rule, why);
      if (began !== undefined) this.settling.trace.took(rule.definition.id, 'rule', began);
      if (outcome === 'waiting') continue;
      this.due.delete(rule.number);
      this.acted.add(rule.number);
      // each settles before the next is asked
      if (dirty.size) break;
    }
    lacks.end('rules', 'change');
  }

  private act(rule: PlanRule, why: Cause): 'done' | 'waiting' {
    const { root } = this.settling.frames;
    const held = rule.condition ? rule.condition.run(root.env) : true;
    if (held instanceof Waiting) return 'waiting';
    const acts = held === true ? rule.then : rule.otherwise;
    // all is computed from what had settled, before anything is set
    const given = acts.map((act): Given[] => this.given(act));
    if (given.flat().some((g) => g.value instanceof Waiting)) return 'waiting';
    const cause: Cause = { kind: 'rule', rule: rule.definition.id };
    this.settling.trace.note(rule.definition.id, null, 'rule', why, null, held === true);
    acts.forEach((act, i) => {
      const values = given[i] ?? [];
      if (act.kind === 'set') for (const { slot, value } of values) this.set(rule, slot, value, act.once, cause);
      else this.addLine(rule, act.group, values, cause);
    });
    return 'done';
  }
  private given(act: PlanAct): Given[] {
    const { env } = this.settling.frames.root;
    if (act.kind === 'set') return [{ slot: act.slot, value: act.formula ? act.formula.run(env) : null }];
    return act.values.map(({ slot, formula }) => ({ slot, value: formula.run(env) }));
  }

  private set(rule: PlanRule, slot: number, value: Result, once: boolean, cause: Cause, frame = this.settling.frames.root): void {
    const field = this.settling.plan.fields[slot] as PlanField;
    const origin = { kind: 'rule', rule: rule.definition.id } as const;
    giveByForm(this.settling, { frame, field }, value, { origin, cause, once });
  }
  private addLine(rule: PlanRule, group: number, values: readonly Given[], cause: Cause): void {
    const { frames, plan } = this.settling;
    const lines = plan.lines[group] as PlanLines;
    const before = frames.lines.ids(group).length;
    if (before >= MAX_LINES) return;
    const frame = frames.lines.add(group, frames.lines.free(group));
    for (const cell of plan.cells) if (cell.group === group) this.settling.dirty.mark(frame, cell.id, 'change', cause);
    this.settling.trace.note(lines.key, frame.line, 'lines', cause, before, before + 1);
    this.settling.markDependents(frames.root, 'lines', group, 'change');
    for (const { slot, value } of values) this.set(rule, slot, value, false, cause, frame);
  }
}

import type { Result } from '../../formula/errors.ts';
import type { Env } from '../../formula/env.ts';
import { formEnv, isAsked, isMet } from '../conditions.ts';
import type { PlanCheck, PlanField } from '../plan.ts';
import type { CheckState } from '../state.ts';
import type { CellWays } from './kind.ts';
import { said } from './words.ts';

const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;

/** What is said at a field now, each with the check that says it. */
export const heldChecks = (field: PlanField, env: Env, mode: Env['mode']): { readonly check: PlanCheck; readonly state: CheckState }[] =>
  field.checks
    .filter(({ when }) => isMet(when, env) && isAsked(when, mode))
    .map((check) => {
      const { when, message, severity, at } = check;
      // a message that cannot be written is said by what it was written for
      return { check, state: { message: said(message, when.ofForm ? formEnv(env) : env) ?? field.definition.label, severity, at } };
    });

export const checks: CellWays = {
  has: (field) => field.checks.length > 0,
  formulas: (field) =>
    field.checks.flatMap((c) => [...(c.when.formula ? [c.when.formula] : []), ...(typeof c.message === 'string' ? [] : [c.message])]),
  after: ['value'],
  compute(settling, frame, field, cause) {
    const held = heldChecks(field, frame.env, settling.context.mode).map((c) => c.state);
    const before = frame.checks[field.at] ?? [];
    if (before.length === held.length && before.every((c, i) => c.message === held[i]?.message)) return;
    frame.checks[field.at] = held;
    settling.trace.note(field.key, frame.line, 'checks', cause, text(before), text(held));
  },
};

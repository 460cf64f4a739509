import type { Result } from '../../formula/errors.ts';
import type { Env } from '../../formula/env.ts';
import { formEnv, isAsked, isMet } from '../conditions.ts';
import type { PlanCheck, PlanField } from '../plan.ts';
import type { CheckState } from '../state.ts';
import type { CellWays } from './kind.ts';
import { said } from './words.ts';

const text = (list: readonly CheckState[]): Result => list.map((c) => c.message).join(' ') || null;

const NONE: readonly CheckState[] = [];
const holds = ({ when }: PlanCheck, env: Env, mode: Env['mode']): boolean => isMet(when, env) && isAsked(when, mode);

/** What a check says where it holds; a message that cannot be written is said by what it was written for. */
const saying = ({ when, message }: PlanCheck, field: PlanField, env: Env): string =>
  said(message, when.ofForm ? formEnv(env) : env) ?? field.definition.label;

/** What is said at a field now, each with the check that says it. */
export const heldChecks = (field: PlanField, env: Env, mode: Env['mode']): { readonly check: PlanCheck; readonly state: CheckState }[] =>
  field.checks
    .filter((check) => holds(check, env, mode))
    .map((check) => ({ check, state: { message: saying(check, field, env), severity: check.severity, at: check.at } }));

/** Whether the same is said as before: most often so, and asked at every key. */
function isSaid(before: readonly CheckState[], field: PlanField, env: Env, mode: Env['mode']): boolean {
  let place = 0;
  for (const check of field.checks) if (holds(check, env, mode) && before[place++]?.message !== saying(check, field, env)) return false;
  return place === before.length;
}

export const checks: CellWays = {
  has: (field) => field.checks.length > 0,
  formulas: (field) =>
    field.checks.flatMap((c) => [...(c.when.formula ? [c.when.formula] : []), ...(typeof c.message === 'string' ? [] : [c.message])]),
  after: ['value'],
  compute(settling, frame, field, cause) {
    const before = frame.checks[field.at] ?? NONE;
    const { mode } = settling.context;
    if (isSaid(before, field, frame.env, mode)) return;
    const held = heldChecks(field, frame.env, mode).map((c) => c.state);
    frame.checks[field.at] = held;
    settling.trace.note(field.key, frame.line, 'checks', cause, text(before), text(held));
  },
};

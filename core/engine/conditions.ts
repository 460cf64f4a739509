import type { Rule } from '../form/rules.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting } from '../formula/errors.ts';
import type { Formula } from '../formula/formula.ts';
import type { EntryContext } from './context.ts';
import type { PlanField } from './plan.ts';

/** Whose condition it is: what its sentence stands at. */
export interface ConditionOwner {
  readonly kind: 'field' | 'lines' | 'section' | 'page' | 'rule' | 'access';
  /** a path, the key of lines, or an id */
  readonly id: string;
  readonly label: string;
}
/** One condition of a state, its own or inherited. */
export interface PlanCondition {
  readonly of: ConditionOwner;
  /** null: always (a rule without a condition) */
  readonly formula: Formula | null;
  /** whether it is met when the formula holds, or when it does not */
  readonly wants: boolean;
  /** the entries it is asked in */
  readonly mode: Rule['mode'];
  /** it reads the form's fields, also where it governs a field of lines */
  readonly ofForm: boolean;
  /** whether what it hides loses its value */
  readonly empties: boolean;
}

/** What hiding does to values; `own` leaves it to each field. */
export type HiddenValue = 'own' | 'keep' | 'clear';
type Mode = EntryContext['mode'];
export const isAsked = ({ mode }: PlanCondition, now: Mode): boolean => mode === 'both' || (mode === 'new' ? now === 'new' : now !== 'new');
/** What a condition comes to before it is asked what is wanted of it. */
const told = ({ formula, ofForm }: Pick<PlanCondition, 'formula' | 'ofForm'>, env: Env): Result =>
  formula === null ? true : formula.run(ofForm ? formEnv(env) : env);
/** Whether a condition is met; one that cannot be told yet, or is empty, is not. */
export const isMet = (condition: PlanCondition, env: Env): boolean => (told(condition, env) === true) === condition.wants;
/** What formulas of the form read, also from inside a line. */
export const formEnv = (env: Env): Env => env.outer ?? env;
/** Whether one of the conditions holds: what requires or locks. Cost: one formula each. */
export function anyMet(all: readonly PlanCondition[], env: Env, mode: Mode): boolean {
  for (const c of all) if (isAsked(c, mode) && isMet(c, env)) return true;
  return false;
}
/** Whether all conditions hold: what shows. */
export function allMet(all: readonly PlanCondition[], env: Env, mode: Mode): boolean {
  for (const c of all) if (isAsked(c, mode) && !isMet(c, env)) return false;
  return true;
}
/** Where rules show a field, it is shown when one of them does. */
export function anyShows(all: readonly PlanCondition[], env: Env, mode: Mode): boolean {
  let isAskedAny = false;
  for (const c of all) {
    if (!isAsked(c, mode)) continue;
    if (isMet(c, env)) return true;
    isAskedAny = true;
  }
  return !isAskedAny;
}

/** Whether a condition cannot be told: it waits for what it reads, or that could not be had. */
function isUntold(c: PlanCondition, env: Env): boolean {
  const result = told(c, env);
  return result === Waiting.value || (result instanceof FormulaError && result.code === 'notAvailable');
}
/** Whether one of the conditions cannot be told. */
export const anyUntold = (all: readonly PlanCondition[], env: Env, mode: Mode): boolean =>
  all.some((c) => isAsked(c, mode) && isUntold(c, env));
/** Whether one of the conditions waits for what it reads. */
export const anyWaits = (all: readonly PlanCondition[], env: Env, mode: Mode): boolean =>
  all.some((c) => isAsked(c, mode) && told(c, env) === Waiting.value);
/** Whether something that hides a field may take its value. */
export const mayLose = ({ shown, showing, definition }: PlanField): boolean =>
  definition.hiddenValue === 'clear' || [...shown, ...showing].some((c) => c.empties);

/**
 * Whether a field that is hidden now loses its value: by what hides it, where that says so, else by what the field says. A condition that
 * cannot be told yet takes nothing.
 */
export function losesHidden(field: PlanField, env: Env, mode: Mode): boolean {
  const { shown, showing, definition } = field;
  const own = definition.hiddenValue === 'clear';
  // most fields keep what they hold, and nothing need be asked
  if (!mayLose(field)) return false;
  const unmet = shown.filter((c) => isAsked(c, mode) && !isMet(c, env));
  // where rules show a field, all of them have to be told
  if (!anyShows(showing, env, mode)) unmet.push(...(anyUntold(showing, env, mode) ? [] : showing.filter((c) => isAsked(c, mode))));
  else if (!unmet.length) return own;
  return unmet.some((c) => c.empties && !isUntold(c, env));
}

/** Conditions as what can be compared as text: the same where they are met alike. */
export const comparable = (all: readonly PlanCondition[]): readonly unknown[] =>
  all.map((c) => [c.of.kind, c.formula?.text ?? null, c.wants, c.mode, c.ofForm, c.empties]);

/** The formulas of conditions. */
export const formulasIn = (all: readonly PlanCondition[]): readonly Formula[] => all.flatMap((c) => (c.formula ? [c.formula] : []));

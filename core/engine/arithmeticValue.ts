import { runArithmetic } from '../formula/arithmetic.ts';
import type { Env } from '../formula/env.ts';
import { canonical, roundTo } from '../values/decimal.ts';
import { AS_IT_IS, type PlanArithmetic, TO_15_DIGITS } from './plan.ts';

/**
 * What plain arithmetic gives a field, by its slot, as the field holds it; NaN where an operand is no number or the result is none: then the
 * formula itself is run, which knows what to say. Cost: its steps.
 */
export function arithmeticValue(all: PlanArithmetic, slot: number, env: Env): number {
  const result = runArithmetic(all, all.from[slot] as number, all.to[slot] as number, env);
  const rounding = all.rounding[slot] as number;
  return result !== result || rounding === AS_IT_IS ? result : rounding === TO_15_DIGITS ? canonical(result) : roundTo(result, rounding);
}

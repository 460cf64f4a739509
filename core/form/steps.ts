import type { z } from 'zod';
import { quoted, whoFormula } from './who.ts';
import type { accessSchema, grantSchema, moveSchema, stepSchema, stepsSchema } from './stepSchemas.ts';

/*
 * Steps: where a record stands in its life, the moves between them, and who sees and fills what at which step. A step is the value of a
 * field of the form, so that formulas, lists and narrowings ask for it like for any other; nobody types it, it is moved.
 */

/** The sign of a step: a shape beside its colour, so that colour is never alone. */
export const SIGNS = ['ring', 'dot', 'box', 'clock', 'glass', 'tick', 'cross', 'arrow', 'flag', 'pause', 'pen'] as const;
export const TONES = ['grey', 'green', 'ochre', 'blue', 'red', 'violet'] as const;

export type Step = z.infer<typeof stepSchema>;
export type Move = z.infer<typeof moveSchema>;
export type Steps = z.infer<typeof stepsSchema>;
export type Grant = z.infer<typeof grantSchema>;
export type Access = z.infer<typeof accessSchema>;

/** The formula that holds for the people of one of the grants, at its steps; null: always. */
export function grantsFormula(grants: readonly Grant[], life: Pick<Steps, 'field' | 'list'> | null): string | null {
  const parts = grants.map(({ who, steps }) => {
    const whom = whoFormula(who);
    const at = steps.length && life ? atSteps(steps, life) : null;
    return whom !== null && at !== null ? `((${whom}) AND ${at})` : (whom ?? at);
  });
  return parts.length && parts.every((p) => p !== null) ? parts.join(' OR ') : null;
}
/** Holds at these steps; a record without a step stands at the first. */
function atSteps(steps: readonly string[], { field, list }: Pick<Steps, 'field' | 'list'>): string {
  const at = `${field} IN (${steps.map(quoted).join(', ')})`;
  return list[0] && steps.includes(list[0].value) ? `(${at} OR ISBLANK(${field}))` : at;
}
/** What can be told of grants without a record: who could be meant at some step; null: anybody. */
export const anyStep = (grants: readonly Grant[]): readonly Grant[] => grants.map((g) => ({ ...g, steps: [] }));
export const stepOf = (steps: Steps, value: unknown): Step | undefined => steps.list.find((s) => s.value === value);
/** The step that a record stands at: one that has none, or one that is no step any more, stands at the first. */
export const stepNow = (steps: Steps, value: unknown): Step => stepOf(steps, value) ?? (steps.list[0] as Step);
/** Whether a move starts from a step. */
export const startsFrom = (move: Move, step: string): boolean => move.to !== step && (move.from.length === 0 || move.from.includes(step));

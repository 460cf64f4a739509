import type { Move, Steps } from '../form/steps.ts';
import type { Formula } from '../formula/formula.ts';
import { type PlanAct, formulasOfAct } from './rules.ts';

/** The steps of a form, compiled. */
export interface PlanSteps {
  readonly definition: Steps;
  /** the field that holds the step */
  readonly slot: number;
  readonly moves: readonly PlanMove[];
}
/** A move that can be made; one that has a mistake is left out. */
export interface PlanMove {
  readonly definition: Move;
  /** null: everybody */
  readonly who: Formula | null;
  /** null: always */
  readonly when: Formula | null;
  /** what must be filled: fields by path and slot, or lines by key and -1 */
  readonly filled: readonly { readonly key: string; readonly slot: number; readonly label: string }[];
  readonly sets: readonly PlanAct[];
}

export const formulasOfMove = (move: PlanMove): readonly Formula[] => [
  ...[move.who, move.when].filter((f) => f !== null),
  ...move.sets.flatMap(formulasOfAct),
];
export const formulasOfSteps = (steps: PlanSteps | null): readonly Formula[] => steps?.moves.flatMap(formulasOfMove) ?? [];

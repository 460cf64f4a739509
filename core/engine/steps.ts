import type { Move, Steps } from '../form/steps.ts';
import type { Formula } from '../formula/formula.ts';
import { type PlanAct, formulasOfAct } from './rules.ts';

/** The steps of a form, compiled. */
export interface PlanSteps {
  readonly definition: Steps;
  /** the field that holds the step */
  readonly slot: number;
  readonly moves: readonly PlanMove[];
  /** by slot, whether a change of the field may change what is said of moves; null where anything may */
  readonly reads: Uint8Array | null;
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

/**
 * The fields, by slot, that moves and the step rest on; null where they ask of lines, or of the row behind a choice, which may change
 * while no value of the form does. What stands in tables changes with an answer, and is not told here.
 */
export function readByMoves(count: number, holder: number, moves: readonly PlanMove[]): Uint8Array | null {
  const reads = new Uint8Array(count);
  reads[holder] = 1;
  for (const move of moves) {
    for (const { slot } of move.filled) {
      if (slot < 0) return null;
      reads[slot] = 1;
    }
    for (const { slots, lists, items } of formulasOfMove(move)) {
      if (lists.groups.length || lists.slots.length || items.length) return null;
      for (const slot of slots) reads[slot] = 1;
    }
  }
  return reads;
}

import type { Rule } from '../form/rules.ts';
import type { Formula } from '../formula/formula.ts';

/** What a rule does to values, compiled. */
export type PlanAct =
  /** null clears */
  | {
      readonly kind: 'set';
      readonly slot: number;
      readonly formula: Formula | null;
      readonly once: boolean;
      /** where it is known beforehand that it is a step: which */
      readonly step?: string;
    }
  /** `values` by slot */
  | { readonly kind: 'addLine'; readonly group: number; readonly values: readonly { readonly slot: number; readonly formula: Formula }[] };

/** A rule that acts on values, compiled; what only shows, requires, locks or says stands at the fields themselves. */
export interface PlanRule {
  /** its place among the rules of the form: the order in which they act */
  readonly number: number;
  readonly definition: Rule;
  readonly label: string;
  readonly condition: Formula | null;
  /** fields whose change it acts on */
  readonly triggers: readonly number[];
  readonly then: readonly PlanAct[];
  readonly otherwise: readonly PlanAct[];
}

export const formulasOfAct = (act: PlanAct): readonly Formula[] =>
  act.kind === 'addLine' ? act.values.map((v) => v.formula) : act.formula ? [act.formula] : [];
/** The formulas that a rule acts with. */
export const formulasOfRule = (rule: PlanRule): readonly Formula[] => [
  ...(rule.condition ? [rule.condition] : []),
  ...[...rule.then, ...rule.otherwise].flatMap(formulasOfAct),
];

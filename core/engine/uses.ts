import type { FormulaPlace } from '../form/formulas.ts';
import type { Formula } from '../formula/formula.ts';
import { readsOf } from '../formula/reads.ts';
import type { Checked } from '../formula/check.ts';
import type { Plan, PlanField } from './plan.ts';

/** A formula of a form with the names it uses. */
export interface FormulaUse extends FormulaPlace {
  /** functions as `SUM`, columns as `species.name`, fields of the form as `@form/path` */
  readonly names: readonly string[];
}

/** The names a checked formula of this form uses, the same for every formula that uses the same thing. */
export function namesUsed(plan: Plan, checked: Checked): readonly string[] {
  const reads = readsOf(checked, (slot) => columnOf(plan, plan.fields[slot] as PlanField));
  return [...reads.functions, ...reads.columns, ...reads.slots.map((slot) => fieldName(plan, plan.fields[slot] as PlanField))];
}
const fieldName = (plan: Plan, field: PlanField): string => `@${plan.form.key}/${field.key}`;
function columnOf(plan: Plan, { group, definition }: PlanField): string | null {
  const table = group === null ? plan.form.table : plan.lines[group]?.definition.table;
  return table && definition.column ? `${table}.${definition.column}` : null;
}

/** Every compiled formula of a form with the names it uses. Formulas with errors are left out. Cost: linear. */
export function formulaUses(plan: Plan): readonly FormulaUse[] {
  const found: FormulaUse[] = [];
  for (const field of plan.fields) {
    const lines = field.group === null ? null : plan.lines[field.group];
    const label = lines ? `${lines.definition.label}: ${field.definition.label}` : field.definition.label;
    for (const [part, compiled, text] of formulasOfField(field))
      found.push({ path: field.key, part, label, text: text ?? compiled.text, names: namesUsed(plan, compiled) });
  }
  return found;
}

function formulasOfField(field: PlanField): (readonly [FormulaPlace['part'], Formula, string?])[] {
  const { value, choices, definition } = field;
  const found: (readonly [FormulaPlace['part'], Formula, string?])[] = [];
  if (value) found.push(['value', value.formula]);
  // the compiled one begins with the condition of the subset
  if (choices?.narrowing) found.push(['where', choices.narrowing.formula, definition.source?.where ?? undefined]);
  if (choices?.shownAs) found.push(['shownAs', choices.shownAs]);
  if (choices?.asks?.kind === 'feed') for (const p of choices.asks.params) found.push([`params.${p.name}`, p.formula]);
  if (choices?.asks?.kind === 'attributes') found.push(['of', choices.asks.of]);
  for (const f of field.shown) found.push(['shown', f]);
  if (field.required) found.push(['required', field.required]);
  if (field.locked) found.push(['locked', field.locked]);
  field.checks.forEach((c, i) => found.push([`checks.${i}`, c.when]));
  field.spreads.forEach((s, i) => {
    if (s.formula) found.push([`spreads.${i}`, s.formula]);
    if (s.when) found.push([`spreads.${i}.when`, s.when]);
  });
  return found;
}

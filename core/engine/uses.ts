import type { FormulaPlace } from '../form/formulas.ts';
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

/**
 * Every formula of a form that has no mistake, with the names it uses; of a narrowing also those of the subset that it narrows
 * further, which stands there alone where nothing is narrowed. Cost: linear.
 */
export function formulaUses(plan: Plan): readonly FormulaUse[] {
  const narrowings = new Map(plan.fields.map((f) => [f.key, f.choices?.narrowing?.formula]));
  const sound = plan.written.filter((w) => w.formula.syntax);
  const found = sound.map(({ formula, ...place }): FormulaUse => {
    const asked = place.part === 'where' ? (narrowings.get(place.path) ?? formula) : formula;
    return { ...place, names: namesUsed(plan, asked) };
  });
  for (const { key: path, definition } of plan.fields) {
    const asked = narrowings.get(path);
    if (asked && !definition.source?.where)
      found.push({ path, part: 'where', label: definition.label, text: asked.text, names: namesUsed(plan, asked) });
  }
  return found;
}

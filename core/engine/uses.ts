import type { FormulaPlace } from '../form/formulas.ts';
import { readsOf } from '../formula/reads.ts';
import type { Checked } from '../formula/check.ts';
import { partsOf } from '../formula/formula.ts';
import { type Syntax, ungroup } from '../formula/syntax.ts';
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

/** A choice that a value map is asked with: what it is called, and all values it can have with what people call them. */
export interface AskedWith {
  readonly label: string;
  readonly options: readonly { readonly value: string; readonly label: string }[];
}
/** The choices whose value is looked up in a value map of the form, where their values are known. Cost: linear in its formulas. */
export function mapAskedWith(plan: Plan, map: string): readonly AskedWith[] {
  const found = new Map<string, AskedWith>();
  const walk = (node: Syntax, checked: Checked): void => {
    partsOf(node, checked).forEach((part) => walk(part, checked));
    if (node.kind !== 'call' || checked.extras.get(node)?.kind !== 'map') return;
    const [name, key] = node.args.map((a) => ungroup(a.value));
    const called = name?.kind === 'name' ? name.name : name?.kind === 'text' ? name.value : '';
    const type = key && checked.types.get(key);
    if (!key || called.toLowerCase() !== map.toLowerCase() || type?.kind !== 'choice' || !type.options) return;
    const source = checked.bindings.get(key)?.source;
    const field = source?.kind === 'slot' ? plan.fields[source.slot] : undefined;
    const labels = new Map((field?.choices?.options ?? []).map((o) => [o.value, o.label]));
    const label = field?.definition.label ?? checked.bindings.get(key)?.label ?? map;
    found.set(label, { label, options: type.options.map((value) => ({ value, label: String(labels.get(value) ?? value) })) });
  };
  for (const { formula } of plan.written) if (formula.syntax) walk(formula.syntax, formula);
  return [...found.values()];
}

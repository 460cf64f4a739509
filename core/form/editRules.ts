import type { Form } from './definition.ts';
import { type Rule, type RuleEffect } from './rules.ts';
import { ruleSchema } from './ruleSchemas.ts';

/* Changes to the rules of a form, each a function from a form to a new form. */

const freeId = (form: Form): string => {
  for (let n = form.rules.length + 1; ; n++) if (!form.rules.some((r) => r.id === `r${n}`)) return `r${n}`;
};
/** Adds a rule at the end. Gives the form and its id. */
export function addRule(form: Form, rule: Partial<Rule> = {}): { form: Form; id: string } {
  const id = freeId(form);
  return { form: { ...form, rules: [...form.rules, ruleSchema.parse({ ...rule, id })] }, id };
}
/** Changes a rule; what is not named stays. */
export const changeRule = (form: Form, id: string, change: Partial<Rule>): Form => ({
  ...form,
  rules: form.rules.map((r) => (r.id === id ? { ...r, ...change } : r)),
});
/** Takes a rule out of the form. */
export const removeRule = (form: Form, id: string): Form => ({ ...form, rules: form.rules.filter((r) => r.id !== id) });
/** The same rule once more, behind it. Gives the form and the id of the copy. */
export function duplicateRule(form: Form, id: string): { form: Form; id: string } {
  const at = form.rules.findIndex((r) => r.id === id);
  const rule = form.rules[at];
  if (!rule) return { form, id };
  const copy = { ...rule, id: freeId(form), shared: null, label: rule.label && `${rule.label}, copy` };
  return { form: { ...form, rules: [...form.rules.slice(0, at + 1), copy, ...form.rules.slice(at + 1)] }, id: copy.id };
}
/** A form with a rule that is used in several: the one of the same mark takes over what it says, or it is added at the end. */
export function withShared(form: Form, rule: Rule): Form {
  const there = form.rules.find((r) => r.shared !== null && r.shared === rule.shared);
  return there ? changeRule(form, there.id, { ...rule, id: there.id, on: there.on }) : addRule(form, rule).form;
}
/** Puts a rule to a place among the rules: they act in this order. */
export function moveRule(form: Form, id: string, to: number): Form {
  const rule = form.rules.find((r) => r.id === id);
  if (!rule || to < 0 || to >= form.rules.length) return form;
  const others = form.rules.filter((r) => r !== rule);
  return { ...form, rules: [...others.slice(0, to), rule, ...others.slice(to)] };
}

/** What a new effect of a kind begins with; `field` is what it is likely about, `lines` the first lines of the form. */
export function newEffect(kind: RuleEffect['kind'], field: string | null, lines: string | null): RuleEffect {
  const at = { field, section: null };
  switch (kind) {
    case 'hide':
      return { kind, ...at, hiddenValue: 'own' };
    case 'message':
      return { kind, ...at, message: 'Needs another look.', severity: 'warning' };
    case 'set':
      return { kind, field: field ?? '', formula: '', once: false };
    case 'clear':
      return { kind, field: field ?? '' };
    case 'step':
      return { kind, to: '' };
    case 'addLine':
      return { kind, lines: lines ?? '', values: {} };
    default:
      return { kind, ...at };
  }
}

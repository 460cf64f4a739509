import { type Form, fieldAt } from '../form/definition.ts';
import { isLockedByFill } from '../form/fills/index.ts';
import type { FormProblem } from '../form/problems.ts';
import { type Act, type Rule, isAct } from '../form/rules.ts';
import { quoted } from '../form/who.ts';
import type { Type } from '../values/typing.ts';
import { type StateCompiler, type RuleCondition, ruleProblem } from './compileStates.ts';
import { order } from './graph.ts';
import type { Plan, PlanLines } from './plan.ts';
import type { PlanAct, PlanRule } from './rules.ts';

type Graph = Pick<Plan, 'fields' | 'cells' | 'dependents' | 'across' | 'cellOf'>;

/**
 * The rules of a form that act on values, in their order. What cannot work is a problem of its rule: places that are not there, a value
 * that a calculation or another rule gives as well, rules that would set each other off without end, one that never acts. Cost: linear
 * in rules and effects, and for circles rules × cells.
 */
export function compileRules(
  form: Form,
  graph: Graph,
  lines: readonly PlanLines[],
  states: StateCompiler,
  problems: FormProblem[],
): PlanRule[] {
  const slots = new Map(graph.fields.map((f) => [f.key, f.slot]));
  for (const rule of form.rules) if (rule.on) problems.push(...placeProblems(form, rule));
  const rules = states.rules.flatMap((one): PlanRule[] => {
    const { rule } = one;
    const acts = (branch: 'then' | 'otherwise'): PlanAct[] =>
      rule[branch].flatMap((effect, i) => (isAct(effect) ? compileAct(one, effect, `${branch}.${i}`) : []));
    const [then, otherwise] = [acts('then'), acts('otherwise')];
    if (!then.length && !otherwise.length) return [];
    if (!rule.opens && !rule.saves && !rule.changes.length && !rule.reaches.length)
      problems.push(
        ruleProblem(
          rule,
          `${one.label} never acts: say when, as the entry opens, when a field changes, when a step is reached or before saving.`,
          {
            severity: 'warning',
          },
        ),
      );
    const triggers = rule.changes.map((path) => slots.get(path)).filter((s) => s !== undefined);
    return [{ number: form.rules.indexOf(rule), definition: rule, label: one.label, condition: one.condition, triggers, then, otherwise }];
  });
  setTwice(rules, graph, problems);
  const broken = circles(rules, graph, lines, slots.get(form.steps?.field ?? ''), problems);
  return rules.filter((r) => !broken.has(r.number));

  function compileAct({ rule, label }: RuleCondition, act: Act, part: `then.${number}` | `otherwise.${number}`): PlanAct[] {
    const note = (message: string): [] => (problems.push(ruleProblem(rule, message, { part })), []);
    const typed = (text: string, at: string, type: Type): ReturnType<StateCompiler['ofRule']> =>
      states.ofRule(rule, label, at as typeof part, text.trim() === '' ? 'EMPTY()' : text, type);
    if (act.kind === 'addLine') {
      const group = lines.find((l) => l.key === act.lines);
      if (!group) return note(`${label} adds a line to “${act.lines}”, but the form has no such lines.`);
      const values = Object.entries(act.values).flatMap(([key, text]) => {
        const field = graph.fields[slots.get(`${act.lines}.${key}`) ?? -1];
        if (!field) return note(`${label} fills “${key}” in a line of ${group.definition.label}, but there is no such field.`);
        const formula = typed(text, `${part}.${key}`, field.type);
        return formula ? [{ slot: field.slot, formula }] : [];
      });
      return [{ kind: 'addLine', group: group.group, values }];
    }
    if (act.kind === 'step') {
      const { steps } = form;
      const holder = graph.fields[slots.get(steps?.field ?? '') ?? -1];
      if (!steps || !holder) return note(`${label} moves the record, but this form has no steps.`);
      if (!steps.list.some((s) => s.value === act.to))
        return note(`${label} moves to the step “${act.to}”, which this form does not have.`);
      if (isLockedByFill(holder)) return [];
      return [{ kind: 'set', slot: holder.slot, formula: states.generated(quoted(act.to), holder.type), once: false, step: act.to }];
    }
    const field = graph.fields[slots.get(act.field) ?? -1];
    if (!field || field.group !== null) return [];
    if (isLockedByFill(field.definition))
      return note(
        `${label} sets ${field.definition.label}, which is calculated. A calculation has its formula alone; make it a prefill, or leave it out here.`,
      );
    if (act.kind === 'clear') return [{ kind: 'set', slot: field.slot, formula: null, once: false }];
    const formula = typed(act.formula, part, field.type);
    return formula ? [{ kind: 'set', slot: field.slot, formula, once: act.once }] : [];
  }
}

/** By slot, the places of the rules that act on its change. */
export function triggeredBy(rules: readonly PlanRule[], fields: number): readonly (readonly number[])[] {
  const found = Array.from({ length: fields }, (): number[] => []);
  rules.forEach((rule, place) => rule.triggers.forEach((slot) => found[slot]?.push(place)));
  return found;
}

/** Names of a rule that mean nothing in this form, each said once. */
function placeProblems(form: Form, rule: Rule): FormProblem[] {
  const has = (path: string): boolean => fieldAt(form, path) !== undefined || form.lines[path] !== undefined;
  const sections = new Set(form.pages.flatMap((p) => p.sections.map((s) => s.id)));
  const found = new Set<string>();
  for (const path of rule.changes) if (!fieldAt(form, path)) found.add(`It acts when “${path}” changes, but this form has no such field.`);
  const steps = new Set(form.steps?.list.map((s) => s.value));
  for (const step of rule.reaches)
    if (!steps.has(step)) found.add(`It acts when the step “${step}” is reached, which this form does not have.`);
  for (const effect of [...rule.then, ...rule.otherwise]) {
    if (effect.kind === 'addLine' || effect.kind === 'step') continue;
    if (effect.field !== null && !has(effect.field)) found.add(`It speaks of “${effect.field}”, but this form has no such field.`);
    if (isAct(effect) && (effect.field.includes('.') || form.lines[effect.field]))
      found.add(`It sets “${effect.field}”: only fields outside lines can be set by a rule.`);
    if (!isAct(effect) && effect.section !== null && !sections.has(effect.section))
      found.add('It speaks of a section that this form does not have.');
  }
  return [...found].map((message) => ruleProblem(rule, message));
}

/** Two rules that may set one field at the same moment: the later wins, which is said. */
function setTwice(rules: readonly PlanRule[], graph: Graph, problems: FormProblem[]): void {
  const setters = new Map<number, PlanRule[]>();
  for (const rule of rules)
    for (const slot of new Set([...rule.then, ...rule.otherwise].flatMap((a) => (a.kind === 'set' ? [a.slot] : []))))
      setters.set(slot, [...(setters.get(slot) ?? []), rule]);
  for (const [slot, all] of setters)
    all.slice(1).forEach((later, i) => {
      const earlier = all[i] as PlanRule;
      if (!meet(earlier, later)) return;
      const label = graph.fields[slot]?.definition.label ?? '';
      problems.push(ruleProblem(later.definition, `${label} is also set by ${earlier.label}. Where both act at once, ${later.label} wins, because it comes later.`, { severity: 'warning' })); // prettier-ignore
    });
}
/** Whether two rules have a moment and a kind of entry in common. */
function meet(a: PlanRule, b: PlanRule): boolean {
  const [x, y] = [a.definition, b.definition];
  if (x.mode !== 'both' && y.mode !== 'both' && x.mode !== y.mode) return false;
  return (
    (x.opens && y.opens) ||
    (x.saves && y.saves) ||
    x.reaches.some((s) => y.reaches.includes(s)) ||
    a.triggers.some((s) => b.triggers.includes(s))
  );
}

/** Rules that set each other off in a circle, by number; each circle is reported with its path. */
function circles(
  rules: readonly PlanRule[],
  graph: Graph,
  lines: readonly PlanLines[],
  steps: number | undefined,
  problems: FormProblem[],
): ReadonlySet<number> {
  const triggered = triggeredBy(rules, graph.fields.length);
  const setsOff = rules.map((rule): number[] => {
    const set = [...rule.then, ...rule.otherwise].flatMap((a) => (a.kind === 'set' ? [a.slot] : fieldsOf(lines[a.group])));
    const at = rules.flatMap(
      ({ definition: { reaches } }, i) =>
      [...rule.then, ...rule.otherwise].some((a) => a.kind === 'set' && a.slot === steps && reaches.some((r) => r === (a.step ?? r))) ? [i] : [], // prettier-ignore
    );
    return [...new Set([...reached(set, graph).flatMap((slot) => triggered[slot] ?? []), ...at])];
  });
  const broken = new Set<number>();
  // a rule acts after those that set it off
  const { cycles } = order(setsOff);
  const alone = rules.flatMap((_, i) => (setsOff[i]?.includes(i) && !cycles.some((c) => c.includes(i)) ? [[i]] : []));
  for (const cycle of [...cycles, ...alone]) {
    const path = [...cycle, cycle[0] as number].map((i) => rules[i] as PlanRule);
    path.forEach((r) => broken.add(r.number));
    const [first] = path;
    if (!first) continue;
    const message =
      cycle.length === 1
        ? `${first.label} would set itself off again: what it sets changes a field that it acts on. Take that field out of its moments, or set another.`
        : `These rules set each other off in a circle: ${path.map((r) => r.label).join(' → ')}. None of them acts; take one step out.`;
    for (const number of new Set(cycle)) problems.push(ruleProblem((rules[number] as PlanRule).definition, message));
  }
  return broken;
}
const fieldsOf = (lines: PlanLines | undefined): number[] => (lines ? Array.from({ length: lines.count }, (_, i) => lines.first + i) : []);

/** Fields whose value may change when others are set: these, and what is computed or narrowed by them. */
function reached(slots: readonly number[], { cells, dependents, across, cellOf, fields }: Graph): number[] {
  const seen = new Set<number>();
  const waiting = slots.map((s) => cellOf.value[s] as number);
  for (let cell = waiting.pop(); cell !== undefined; cell = waiting.pop()) {
    if (cell < 0 || seen.has(cell)) continue;
    seen.add(cell);
    waiting.push(...(dependents[cell] ?? []), ...(across[cell] ?? []));
    // what spreads from it is set by hand alone, but a rule's value spreads no further
  }
  const values = [...seen].flatMap((c) => (cells[c]?.kind === 'value' ? [cells[c].slot] : []));
  return values.filter((s) => fields[s] !== undefined);
}

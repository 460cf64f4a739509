import { type Form, type Lines, fieldOrder, linesOrder } from '../form/definition.ts';
import type { Feeds } from '../model/feeds.ts';
import type { OptionLists } from '../model/lists.ts';
import { type FormProblem, formProblem } from '../form/problems.ts';
import type { Tables } from '../model/tables.ts';
import type { Scope } from '../formula/scope.ts';
import { buildGraph, formulasOf } from './cellGraph.ts';
import { FieldCompiler } from './compileField.ts';
import { compileRules, triggeredBy } from './compileRules.ts';
import { StateCompiler, withPlaceChecks } from './compileStates.ts';
import { formulasIn } from './conditions.ts';
import { type PlanRule, formulasOfRule } from './rules.ts';
import { order } from './graph.ts';
import { atOnce } from './inSteps.ts';
import { compileSteps } from './compileSteps.ts';
import { type PlanSteps, formulasOfMove, formulasOfSteps } from './steps.ts';
import { picksIn } from './picks.ts';
import { CELL_KINDS } from './plan.ts';
import type { Driver, Plan, PlanField, PlanLines, Written } from './plan.ts';
import type { World } from '../model/world.ts';
import { mapProblems, scopesOf } from './scopes.ts';
import { withThrough } from './through.ts';

/**
 * Compiles a form against the tables it uses: parses and checks every formula, finds what each reads, orders the
 * cells. Always gives a plan that runs: what has a problem of severity error is left out of it, so that one broken
 * formula does not stop the rest of a draft. A form with errors must not be published. What is merely doubtful is told
 * by `compileDraft`.
 * Cost: linear in formula text, cells and edges.
 */
export function compileForm(...of: Parameters<typeof compileFormInSteps>): Plan {
  return atOnce(compileFormInSteps(...of));
}

/**
 * The same in steps, a field in each, since a form of hundreds of fields takes a tenth of a second and more the first time. Takes a form with
 * the tables, option lists and feeds it uses, by their keys; gives the plan at its end. Throws nothing for what is wrong in the form: that is
 * among the plan’s problems.
 */
export function* compileFormInSteps(
  form: Form,
  tables: Tables,
  lists: OptionLists = new Map(),
  feeds: Feeds = new Map(),
): Generator<void, Plan> {
  const problems: FormProblem[] = [];
  const written: Written[] = [];
  const world: World = { tables, lists, feeds };
  const scopes = scopesOf(form, world);
  const keys = fieldOrder(form);
  const ofForm = new FieldCompiler(form.table, form.fields, world, scopes.form, problems, written, '');
  const states = new StateCompiler(form, ofForm, scopes.form, problems);
  yield;
  const fields: PlanField[] = [];
  for (const [slot, key] of keys.entries()) {
    fields.push(ofForm.field(key, { slot, at: slot, group: null }, states.of(key, null)));
    yield;
  }
  ofForm.columnsUsedOnce(fields);
  const lines: PlanLines[] = [];
  for (const [group, key] of linesOrder(form).entries()) {
    const definition = form.lines[key] as Lines;
    const first = fields.length;
    const compiler = new FieldCompiler(
      definition.table,
      definition.fields,
      world,
      scopes.lines.get(key) as Scope,
      problems,
      written,
      `${key}.`,
      definition.label,
    );
    compiler.lines(form, key, definition);
    const own = states.lines(key, definition);
    for (const [at, k] of definition.columns.entries()) {
      fields.push(compiler.field(k, { slot: first + at, at, group }, states.of(`${key}.${k}`, own)));
      yield;
    }
    compiler.columnsUsedOnce(fields.slice(first));
    const { shown, showing, required, locked, filling } = own;
    lines.push({ key, group, definition, first, count: definition.columns.length, shown, showing, required, locked, filling });
  }
  const placed = withPlaceChecks(form, fields, ofForm, states);
  if (form.parent && !tables.has(form.parent)) {
    problems.push(formProblem('noTable', null, null, `The form opens under records of “${form.parent}”, but there is no such table.`));
  }
  for (const message of mapProblems(form)) problems.push(formProblem('valueMap', null, null, message));
  spreadCircles(placed, problems);
  const scopeOf = ({ group }: PlanField): Scope => scopes.lines.get(lines[group ?? -1]?.key ?? '') ?? scopes.form;
  yield;
  const graph = yield* buildGraph(withThrough(placed, scopeOf), lines, problems);
  yield;
  const rules = compileRules(form, graph, lines, states, problems);
  yield;
  const steps = compileSteps(form, graph, lines, states, problems);
  yield;
  const drivers = graph.drivers.map((own, slot) => withMoves(withRules(own, slot, rules), slot, steps));
  yield;
  const formulas = [
    ...graph.fields.flatMap((f) => [
      ...CELL_KINDS.flatMap((kind) => formulasOf(f, kind)),
      ...f.spreads.flatMap((s) => [s.formula, s.when]),
    ]),
    ...lines.flatMap((l) => formulasIn([...l.shown, ...l.showing, ...l.required, ...l.locked])),
    ...rules.flatMap(formulasOfRule),
    ...formulasOfSteps(steps),
  ];
  yield;
  const picks = picksIn(formulas);
  yield;
  return {
    form,
    tables,
    scope: scopes.form,
    lineScopes: scopes.lines,
    own: graph.fields.slice(0, keys.length),
    lines,
    slots: new Map(graph.fields.map((f) => [f.key, f.slot])),
    ...graph,
    drivers,
    formulas: formulas.filter((f) => f !== null),
    picks,
    rules,
    triggered: triggeredBy(rules, graph.fields.length),
    steps,
    problems,
    written,
  };
}

/** What a rule sets in a field is driven by what the rule asks. */
function withRules(drivers: readonly Driver[], slot: number, rules: readonly PlanRule[]): readonly Driver[] {
  const found = [...drivers];
  for (const rule of rules) {
    if (![...rule.then, ...rule.otherwise].some((a) => a.kind === 'set' && a.slot === slot)) continue;
    for (const from of new Set([...rule.triggers, ...(rule.condition?.slots ?? [])]))
      if (from !== slot && !found.some((d) => d.slot === from)) found.push({ slot: from, through: 'value' });
  }
  return found;
}

/** So is what a move sets by what the move asks, and the step by what all moves ask. */
function withMoves(drivers: readonly Driver[], slot: number, steps: PlanSteps | null): readonly Driver[] {
  const found = [...drivers];
  for (const move of steps?.moves ?? []) {
    const sets = slot === steps?.slot || move.sets.some((a) => a.kind === 'set' && a.slot === slot);
    for (const from of sets ? new Set([...formulasOfMove(move).flatMap((f) => f.slots), ...move.filled.map((f) => f.slot)]) : [])
      if (from !== slot && from >= 0 && !found.some((d) => d.slot === from)) found.push({ slot: from, through: 'value' });
  }
  return found;
}

/** Fields that set each other in a circle would set each other for ever: each such circle is reported with its path. */
function spreadCircles(fields: readonly PlanField[], problems: FormProblem[]): void {
  const { cycles } = order(fields.map((f) => f.spreads.map((s) => s.slot)));
  for (const cycle of cycles) {
    const path = [...cycle, cycle[0] as number].map((slot) => fields[slot] as PlanField).reverse();
    const message = `Changing one of these sets the next, and so on in a circle: ${path.map((f) => f.definition.label).join(' → ')}. Take one step out.`;
    problems.push(formProblem('cycle', path[0]?.key ?? null, 'spreads.0', message, { path: path.map((f) => f.key) }));
  }
}

import { sourceRows } from '../choices/sources/index.ts';
import { decimalsFor, fitProblem, fitValue } from '../form/fit.ts';
import { type Field, type Form, type Lines, fieldOrder, linesOrder } from '../form/definition.ts';
import { givesOnce, isLockedByFill } from '../form/fills/index.ts';
import type { Feeds } from '../model/feeds.ts';
import type { OptionLists } from '../model/lists.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { type Column, type Tables, targetOf, typeOfColumn } from '../model/tables.ts';
import type { Run } from '../formula/compile.ts';
import { FormulaError, isDatum } from '../formula/errors.ts';
import { type Formula, formula, slotsRead } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import { canonical, roundTo } from '../values/decimal.ts';
import { buildGraph, formulasOf } from './cellGraph.ts';
import { order } from './graph.ts';
import { picksIn } from './picks.ts';
import { CELL_KINDS } from './plan.ts';
import type { Plan, Written, PlanCheck, PlanSpread, PlanField, PlanLines, PlanValue } from './plan.ts';
import type { World } from '../model/world.ts';
import { mapProblems, scopesOf, typeOfField } from './scopes.ts';
import { withThrough } from './through.ts';
import { SourceCompiler } from './sources.ts';

/**
 * Compiles a form against the tables it uses: parses and checks every formula, finds what each reads, orders the
 * cells. Always gives a plan that runs: what has a problem of severity error is left out of it, so that one broken
 * formula does not stop the rest of a draft. A form with errors must not be published.
 * Cost: linear in formula text, cells and edges.
 */
export function compileForm(form: Form, tables: Tables, lists: OptionLists = new Map(), feeds: Feeds = new Map()): Plan {
  const problems: FormProblem[] = [];
  const written: Written[] = [];
  const world: World = { tables, lists, feeds };
  const scopes = scopesOf(form, world);
  const keys = fieldOrder(form);
  const ofForm = new FieldCompiler(form.table, form.fields, world, scopes.form, problems, written, '');
  const fields = keys.map((key, slot) => {
    const section = form.pages.flatMap((p) => p.sections).find((s) => s.fields.includes(key));
    return ofForm.field(key, { slot, at: slot, group: null }, section?.shown ?? null);
  });
  ofForm.columnsUsedOnce(fields);
  const lines = linesOrder(form).map((key, group): PlanLines => {
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
    fields.push(...definition.columns.map((k, at) => compiler.field(k, { slot: first + at, at, group }, null)));
    compiler.columnsUsedOnce(fields.slice(first));
    const section = form.pages.flatMap((p) => p.sections).find((s) => s.fields.includes(key));
    const shown = [
      ofForm.formula(key, 'shown', section?.shown ?? null, T.YESNO, scopes.form, null),
      ofForm.formula(key, 'shown', definition.shown, T.YESNO, scopes.form, { path: key, part: 'shown', label: definition.label }),
    ].filter((f) => f !== null);
    return { key, group, definition, first, count: definition.columns.length, shown };
  });
  if (form.parent && !tables.has(form.parent)) {
    problems.push(formProblem('noTable', null, null, `The form opens under records of “${form.parent}”, but there is no such table.`));
  }
  for (const message of mapProblems(form)) problems.push(formProblem('valueMap', null, null, message));
  spreadCircles(fields, problems);
  const scopeOf = ({ group }: PlanField): Scope => scopes.lines.get(lines[group ?? -1]?.key ?? '') ?? scopes.form;
  const sections = form.pages
    .flatMap((p) => p.sections)
    .flatMap(({ id, label, shown }): Written[] => {
      const compiled = shown === null ? null : formula(shown, scopes.form, T.YESNO);
      return shown !== null && compiled?.read ? [{ path: id, part: 'shown', label, text: shown, formula: compiled }] : [];
    });
  const graph = buildGraph(withThrough(fields, scopeOf), lines, problems);
  const formulas = [
    ...graph.fields.flatMap((f) => [
      ...CELL_KINDS.flatMap((kind) => formulasOf(f, kind)),
      ...f.spreads.flatMap((s) => [s.formula, s.when]),
    ]),
    ...lines.flatMap((l) => l.shown),
  ];
  return {
    form,
    tables,
    scope: scopes.form,
    lineScopes: scopes.lines,
    own: graph.fields.slice(0, keys.length),
    lines,
    slots: new Map(graph.fields.map((f) => [f.key, f.slot])),
    ...graph,
    picks: picksIn(formulas),
    problems,
    written: [...written, ...sections],
  };
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

/**
 * The definition as an object of one known layout. The parser builds its objects property by property, which the engine of
 * JavaScript keeps as slow tables once there are many; every computed cell reads some of them.
 */
function laidOut(d: Field): Field {
  return {
    label: d.label,
    type: d.type,
    column: d.column,
    source: d.source,
    value: d.value,
    decimals: d.decimals,
    shown: d.shown,
    required: d.required,
    locked: d.locked,
    hiddenValue: d.hiddenValue,
    checks: d.checks,
    hint: d.hint,
    spreads: d.spreads,
    carry: d.carry,
    accept: d.accept,
  };
}

class FieldCompiler {
  private readonly sources: SourceCompiler;

  constructor(
    private readonly table: string,
    private readonly definitions: Readonly<Record<string, Field>>,
    private readonly world: World,
    private readonly scope: Scope,
    private readonly problems: FormProblem[],
    private readonly written: Written[],
    /** what stands before a key to make its path: `lots.` */
    private readonly prefix: string,
    /** what the lines are called whose fields they are */
    private readonly group: string | null = null,
  ) {
    this.sources = new SourceCompiler(world, scope, problems, (path, part, text, expected, s) =>
      this.formula(path, part, text, expected, s),
    );
  }

  field(key: string, place: Pick<PlanField, 'slot' | 'at' | 'group'>, sectionShown: string | null): PlanField {
    const definition = laidOut(this.definitions[key] as Field);
    const path = `${this.prefix}${key}`;
    const type = typeOfField(this.table, definition, this.world);
    const condition = (text: string | null, part: FieldPart): Formula | null => this.formula(path, part, text, T.YESNO);
    const column = this.column(path, definition);
    const value = this.value(path, definition, type, column);
    const choices = this.sources.choices(path, definition);
    const shown = [this.formula(path, 'shown', sectionShown, T.YESNO, this.scope, null), condition(definition.shown, 'shown')].filter(
      (f) => f !== null,
    );
    return {
      key: path,
      ...place,
      definition,
      type,
      column,
      value,
      choices,
      isPlain: isLockedByFill({ value }) && choices === null && definition.type !== 'file',
      isPersonal: shown.some(readsMe),
      shown,
      required: condition(definition.required, 'required'),
      locked: condition(definition.locked, 'locked'),
      checks: definition.checks.flatMap((check, i): PlanCheck[] => {
        const when = condition(check.when, `checks.${i}`);
        return when ? [{ when, message: check.message, severity: check.severity }] : [];
      }),
      spreads: definition.spreads.flatMap((spread, i) => this.spread(path, key, spread, i)),
    };
  }

  private spread(path: string, key: string, { field, formula: text, when: condition }: Field['spreads'][number], i: number): PlanSpread[] {
    const part: FieldPart = `spreads.${i}`;
    const note = (message: string): [] => {
      this.problems.push(formProblem('spread', path, part, message));
      return [];
    };
    const target = this.scope.bindings.get(field);
    const definition = this.definitions[field];
    if (target?.source.kind !== 'slot' || !definition) return note(`It sets “${field}”, but there is no such field beside it.`);
    if (field === key) return note('A field cannot set itself.');
    if (isLockedByFill(definition))
      return note(
        `It sets ${definition.label}, which is calculated. A calculation has its formula alone; make it a prefill, or leave it out here.`,
      );
    const when = this.formula(path, part, condition, T.YESNO, this.scope, { path, part: `${part}.when`, label: this.labelOf(path) });
    const compiled = this.formula(path, part, text, target.type);
    if ((condition !== null && !when) || (text !== null && !compiled)) return [];
    return [{ slot: target.source.slot, formula: compiled, when }];
  }

  /** What people call the field of a path. */
  private labelOf(path: string): string {
    const label = this.definitions[path.slice(this.prefix.length)]?.label ?? path;
    return this.group === null ? label : `${this.group}: ${label}`;
  }

  /**
   * Compiles a formula in place; null when there is none or it is broken (its problems are noted). `at` is where it is written,
   * null when it is written elsewhere.
   */
  formula(
    path: string,
    part: FieldPart,
    text: string | null,
    expected: Type | null,
    scope: Scope = this.scope,
    at: Pick<Written, 'path' | 'part' | 'label'> | null = { path, part, label: this.labelOf(path) },
  ): Formula | null {
    if (text === null) return null;
    const compiled = formula(text, scope, expected);
    if (part !== 'value' && [...compiled.extras.values()].some((e) => e.kind === 'series')) {
      const said = 'A number of a series is given once, when a record is new: NEXTNUMBER belongs in a default.';
      this.problems.push(formProblem('series', path, part, said));
      return null;
    }
    for (const p of compiled.problems) {
      this.problems.push(
        formProblem(p.code, path, part, p.message, { severity: p.severity, span: { from: p.from, to: p.to }, fixes: p.fixes }),
      );
    }
    if (at && compiled.read && text.trim() !== '') this.written.push({ ...at, text, formula: compiled });
    return compiled.syntax ? compiled : null;
  }

  private value(path: string, definition: Field, type: Type, column: Column | null): PlanValue | null {
    const { value } = definition;
    if (!value) return null;
    if (value.formula.trim() === '') {
      this.problems.push(formProblem('emptyFormula', path, 'value', `The ${value.kind} has no formula yet.`));
      return null;
    }
    const compiled = this.formula(path, 'value', value.formula, type);
    if (compiled && !givesOnce(definition) && [...compiled.extras.values()].some((e) => e.kind === 'series')) {
      const said = 'A number of a series is given once, when a record is new: make this a default.';
      this.problems.push(formProblem('series', path, 'value', said));
      return null;
    }
    return (
      compiled && {
        kind: value.kind,
        formula: compiled,
        definition: value,
        fitted: fittedRun(compiled.run, definition, column),
        awaits: givesOnce(definition) ? awaitedBy(compiled) : [],
      }
    );
  }

  private column(path: string, definition: Field): Column | null {
    if (!definition.column) return null;
    const column = this.world.tables.get(this.table)?.columns.find((c) => c.key === definition.column);
    // a column that does not exist yet is made when the form is published
    if (!column) return null;
    const rowsOf = sourceRows(definition.source);
    if (column.type !== definition.type) {
      const message = `The field is ${T.typeInWords(typeOfColumn(definition.type, null))}, but its column ${column.key} holds ${T.typeInWords(typeOfColumn(column.type, column.target))}.`;
      this.problems.push(formProblem('columnType', path, 'column', message));
    } else if (targetOf(column) && rowsOf !== null && rowsOf !== targetOf(column)) {
      const message = `The column ${column.key} holds rows of ${this.label(targetOf(column))}, but the choices are rows of ${this.label(rowsOf)}.`;
      this.problems.push(formProblem('columnType', path, 'source', message));
    }
    return column;
  }

  private label(table: string | null): string {
    return (table && this.world.tables.get(table)?.label) ?? table ?? 'no table';
  }

  /** Whether the child table of lines is there and links to the form's table. */
  lines(form: Form, key: string, definition: Lines): void {
    const note = (code: FormProblem['code'], message: string): void => void this.problems.push(formProblem(code, key, 'source', message));
    const table = this.world.tables.get(definition.table);
    if (!table) return note('noTable', `There is no table “${definition.table}” to keep the lines in.`);
    const link = table.columns.find((c) => c.key === definition.link);
    if (!link || link.type !== 'link' || link.target !== form.table) {
      note(
        'noLines',
        `${table.label} needs a column that links each line to its record; “${definition.link}” does not link to ${this.label(form.table)}.`,
      );
    }
    if (definition.order && table.columns.find((c) => c.key === definition.order)?.type !== 'number')
      note('noLines', `The order of the lines needs a number column; ${table.label} has none called “${definition.order}”.`);
    if (!definition.columns.length) note('noLines', `${definition.label} has no fields yet.`);
    for (const [k, field] of Object.entries(definition.fields))
      if (field.column !== null && (field.column === definition.link || field.column === definition.order))
        note('columnTwice', `“${k}” cannot be saved in ${field.column}: that column keeps which record the line belongs to, or its place.`);
  }

  columnsUsedOnce(fields: readonly PlanField[]): void {
    const users = new Map<string, PlanField>();
    for (const field of fields) {
      const { column } = field.definition;
      if (!column) continue;
      const other = users.get(column);
      if (other) {
        const message = `Its column ${column} is already used by “${other.definition.label}”. Two fields cannot save into one column.`;
        this.problems.push(formProblem('columnTwice', field.key, 'column', message));
      }
      users.set(column, field);
    }
  }
}

/** The fields that a formula asks the last record by: `last(partner)`. */
function awaitedBy(formula: Formula): readonly number[] {
  const slots = [...formula.extras].flatMap(([node, extra]) => (extra.kind === 'last' ? slotsRead(node, formula) : []));
  return [...new Set(slots)];
}

/** Whether a formula asks who is signed in. */
export const readsMe = (f: Formula): boolean => [...f.bindings.values()].some((b) => b.source.kind === 'me');

/** A formula's result as a field holds it; a text the field cannot hold is an error. Numbers, which are most, go a short way. */
function fittedRun(run: Run, definition: Field, column: Column | null): Run {
  const decimals = decimalsFor(definition, column);
  const short = definition.type === 'number';
  return (env) => {
    const result = run(env);
    if (short && typeof result === 'number') return decimals === null ? canonical(result) : roundTo(result, decimals);
    if (result === null || !isDatum(result)) return result;
    const value = fitValue(definition, column, result);
    const problem = typeof value === 'string' ? fitProblem(definition, column, value) : null;
    return problem === null ? value : new FormulaError('tooMuch', problem);
  };
}

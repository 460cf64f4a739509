import { sourceRows } from '../choices/sources/index.ts';
import { type Check, type Field, type Form, type Lines, type Words } from '../form/definition.ts';
import { decimalsFor, fitProblem, fitValue } from '../form/fit.ts';
import { givesOnce, isLockedByFill } from '../form/fills/index.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { wordsFormula } from '../form/words.ts';
import { mendOfFix } from '../form/mend.ts';
import { arithmeticOf } from '../formula/arithmetic.ts';
import type { Run } from '../formula/compile.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, isDatum } from '../formula/errors.ts';
import { type Formula, formula, slotsRead } from '../formula/formula.ts';
import type { Scope } from '../formula/scope.ts';
import { type Column, targetOf, typeOfColumn } from '../model/tables.ts';
import type { World } from '../model/world.ts';
import { holdsFiles } from '../values/kinds/index.ts';
import { canonical, roundTo } from '../values/decimal.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import type { InheritedStates } from './compileStates.ts';
import { type HiddenValue, type PlanCondition, allMet, anyShows, formulasIn } from './conditions.ts';
import type { EntryContext } from './context.ts';
import type { PlanCheck, PlanField, PlanSpread, PlanValue, PlanWords, Written } from './plan.ts';
import { typeOfField } from './scopes.ts';
import { SourceCompiler } from './sources.ts';
import type { CheckPlace } from './state.ts';

/* One field of a form, compiled: its formulas are parsed and checked where they stand. See `compileForm`. */

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
    format: d.format,
    shown: d.shown,
    required: d.required,
    locked: d.locked,
    hiddenValue: d.hiddenValue,
    checks: d.checks,
    hint: d.hint,
    called: d.called,
    placeholder: d.placeholder,
    spreads: d.spreads,
    carry: d.carry,
    width: d.width,
    accept: d.accept,
    files: d.files,
  };
}

export class FieldCompiler {
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

  field(key: string, place: Pick<PlanField, 'slot' | 'at' | 'group'>, states: InheritedStates): PlanField {
    const definition = laidOut(this.definitions[key] as Field);
    const path = `${this.prefix}${key}`;
    const type = typeOfField(this.table, definition, this.world);
    const condition = (text: string | null, part: FieldPart): Formula | null => this.formula(path, part, text, T.YESNO);
    const column = this.column(path, definition);
    const value = this.value(path, definition, type, column);
    const choices = this.sources.choices(path, definition);
    const own = (text: string | null, part: FieldPart): PlanCondition[] => {
      const compiled = condition(text, part);
      const of = { kind: 'field', id: path, label: definition.label } as const;
      return compiled
        ? [{ of, formula: compiled, wants: true, mode: 'both', ofForm: false, empties: definition.hiddenValue === 'clear' }]
        : [];
    };
    const empties = (c: PlanCondition & { readonly hides?: HiddenValue }): PlanCondition =>
      c.hides === undefined ? c : { ...c, empties: (c.hides === 'own' ? definition.hiddenValue : c.hides) === 'clear' };
    const shown = [...states.shown.map(empties), ...own(definition.shown, 'shown')];
    const showing = states.showing.map(empties);
    const words = (w: Words | null, part: FieldPart): PlanWords | null => {
      const text = w === null ? null : wordsFormula(w);
      return text === null ? (w as string | null) : (this.formula(path, part, text, null) ?? (typeof w === 'string' ? w : null));
    };
    return {
      key: path,
      slot: place.slot,
      at: place.at,
      group: place.group,
      definition,
      type,
      column,
      value,
      choices,
      isPlain: isLockedByFill({ value }) && choices === null && !holdsFiles(definition.type),
      isPersonal: formulasIn([...shown, ...showing]).some(readsMe),
      shown,
      showing,
      required: [...states.required, ...own(definition.required, 'required')],
      locked: [...states.locked, ...own(definition.locked, 'locked')],
      filling: states.filling,
      words: {
        called: words(definition.called, 'called'),
        hint: words(definition.hint, 'hint'),
        placeholder: words(definition.placeholder, 'placeholder'),
      },
      checks: [...this.checks({ path, at: path, label: this.labelOf(path) }, definition.checks, { kind: 'field' }), ...states.messages],
      spreads: definition.spreads.flatMap((spread, i) => this.spread(path, key, spread, i)),
    };
  }

  /** Checks where they are said. `at` is where they are written, `path` the field that a problem of them leads to. */
  checks(
    where: { readonly path: string; readonly at: string; readonly label: string },
    all: readonly Check[],
    place: CheckPlace,
  ): PlanCheck[] {
    const written = (part: Written['part']) => ({ path: where.at, part, label: where.label });
    return all.flatMap((check, i): PlanCheck[] => {
      const part: FieldPart = `checks.${i}`;
      const when = this.formula(where.path, part, check.when, T.YESNO, this.scope, written(part));
      const text = wordsFormula(check.message);
      const message = text === null ? null : this.formula(where.path, part, text, null, this.scope, written(`${part}.message`));
      if (!when) return [];
      const of = { kind: 'field', id: where.path, label: where.label } as const;
      const fixed = typeof check.message === 'string' ? check.message : where.label;
      return [
        {
          when: { of, formula: when, wants: true, mode: 'both', ofForm: false, empties: false },
          message: message ?? fixed,
          severity: check.severity,
          at: place,
        },
      ];
    });
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
        formProblem(p.code, path, part, p.message, {
          severity: p.severity,
          span: { from: p.from, to: p.to },
          fixes: p.fixes,
          at: at && { path: at.path, part: at.part },
          mend: at && p.fixes[0] ? mendOfFix(at, text, p.fixes[0]) : null,
        }),
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
        arithmetic: compiled.syntax && definition.type === 'number' ? arithmeticOf(compiled.syntax, compiled, new Map()) : null,
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

/**
 * Whether conditions that ask who is signed in hide a field from them. `isAskedOf` picks those that can be told here; with `sure`, a
 * field that rules show counts as hidden only when all of them can be told. Cost: its conditions.
 */
export function hidesFrom(
  field: PlanField,
  env: Env,
  mode: EntryContext['mode'],
  isAskedOf: (f: Formula) => boolean = readsMe,
  sure = false,
): boolean {
  const asks = (c: PlanCondition): boolean => c.formula !== null && isAskedOf(c.formula);
  if (!allMet(field.shown.filter(asks), env, mode)) return true;
  const told = sure ? field.showing.length > 0 && field.showing.every(asks) : field.showing.some(asks);
  return told && !anyShows(field.showing, env, mode);
}

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

import { narrowingOf } from '../choices/narrowing.ts';
import { isFolded } from '../choices/order.ts';
import { type Field, type FieldSource, type Form, type RowsSource, fieldOrder } from '../form/definition.ts';
import { OPTION_COLUMNS, type OptionLists, levelsOf, optionRowsOf } from '../form/lists.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { type Column, type Tables, columnOf, shapesOf, typeOfColumn } from '../form/tables.ts';
import { type Formula, formula } from '../formula/formula.ts';
import { type Binding, type Scope, withBinding } from '../formula/scope.ts';
import * as T from '../formula/types.ts';
import type { Type } from '../formula/types.ts';
import type { Row } from '../values/types.ts';
import { order } from './graph.ts';
import {
  CELL_KINDS,
  type Cell,
  type CellKind,
  type Driver,
  type Plan,
  type PlanCheck,
  type PlanChoices,
  type PlanField,
  type PlanValue,
} from './plan.ts';

/**
 * Compiles a form against the tables it uses: parses and checks every formula, finds what each reads, orders the
 * cells. Always gives a plan that runs: what has a problem of severity error is left out of it, so that one broken
 * formula does not stop the rest of a draft. A form with errors must not be published.
 * Cost: linear in formula text, cells and edges.
 */
export function compileForm(form: Form, tables: Tables, lists: OptionLists = new Map()): Plan {
  const problems: FormProblem[] = [];
  const keys = fieldOrder(form);
  const scope = scopeOf(form, keys, tables, lists);
  const compiler = new FieldCompiler(form, tables, lists, scope, problems);
  const fields = keys.map((key, slot) => compiler.field(key, slot));
  compiler.columnsUsedOnce(fields);
  const graph = buildGraph(fields, problems);
  return {
    form,
    tables,
    scope,
    fields: graph.fields,
    slots: new Map(keys.map((key, slot) => [key, slot])),
    cells: graph.cells,
    dependents: graph.dependents,
    cellOf: graph.cellOf,
    drivers: graph.drivers,
    problems,
  };
}

/** The type of a field: that of its column where it has one, with the options it offers. */
function typeOfField(form: Form, field: Field, tables: Tables, lists: OptionLists): Type {
  const { source } = field;
  const listed = source?.kind === 'list' ? lists.get(source.list) : undefined;
  const options =
    source?.kind === 'options' ? source.options.map((o) => o.value)
    : source?.kind === 'list' && listed ? optionRowsOf(listed, source.level).map((r) => String(r.value))
    : null; // prettier-ignore
  const column = field.column ? tables.get(form.table)?.columns.find((c) => c.key === field.column) : undefined;
  const target = field.source?.kind === 'rows' ? field.source.table : (column?.target ?? null);
  return typeOfColumn(field.type, target, options);
}

/** The names every formula of the form may use. */
export function scopeOf(form: Form, keys: readonly string[], tables: Tables, lists: OptionLists = new Map()): Scope {
  const bindings = new Map<string, Binding>();
  keys.forEach((key, slot) => {
    const field = form.fields[key];
    if (field)
      bindings.set(key, { name: key, label: field.label, type: typeOfField(form, field, tables, lists), source: { kind: 'slot', slot } });
  });
  bindings.set('me', { name: 'me', label: 'The person signed in', type: T.rowOf('people'), source: { kind: 'me' } });
  const entry: Type = { kind: 'object', members: new Map<string, Type>([['mode', { kind: 'choice', options: ['new', 'edit', 'view'] }]]) };
  bindings.set('entry', { name: 'entry', label: 'This entry', type: entry, source: { kind: 'entry' } });
  return { bindings, tables: shapesOf(tables) };
}

class FieldCompiler {
  constructor(
    private readonly form: Form,
    private readonly tables: Tables,
    private readonly lists: OptionLists,
    private readonly scope: Scope,
    private readonly problems: FormProblem[],
  ) {}

  field(key: string, slot: number): PlanField {
    const definition = this.form.fields[key] as Field;
    const type = typeOfField(this.form, definition, this.tables, this.lists);
    const section = this.form.pages.flatMap((p) => p.sections).find((s) => s.fields.includes(key));
    const condition = (text: string | null, part: FieldPart): Formula | null => this.formula(key, part, text, T.YESNO);
    return {
      key,
      slot,
      definition,
      type,
      column: this.column(key, definition),
      value: this.value(key, definition, type),
      choices: this.choices(key, definition),
      shown: [condition(section?.shown ?? null, 'shown'), condition(definition.shown, 'shown')].filter((f) => f !== null),
      required: condition(definition.required, 'required'),
      locked: condition(definition.locked, 'locked'),
      checks: definition.checks.flatMap((check, i): PlanCheck[] => {
        const when = condition(check.when, `checks.${i}`);
        return when ? [{ when, message: check.message, severity: check.severity }] : [];
      }),
    };
  }

  /** Compiles a formula in place; null when there is none or it is broken (its problems are noted). */
  private formula(key: string, part: FieldPart, text: string | null, expected: Type | null, scope: Scope = this.scope): Formula | null {
    if (text === null) return null;
    const compiled = formula(text, scope, expected);
    for (const p of compiled.problems) {
      this.problems.push(
        formProblem(p.code, key, part, p.message, { severity: p.severity, span: { from: p.from, to: p.to }, fixes: p.fixes }),
      );
    }
    return compiled.syntax ? compiled : null;
  }

  private value(key: string, definition: Field, type: Type): PlanValue | null {
    const { value } = definition;
    if (!value) return null;
    if (value.formula.trim() === '') {
      const label = { default: 'default', prefill: 'prefill', calculation: 'calculation' }[value.kind];
      this.problems.push(formProblem('emptyFormula', key, 'value', `The ${label} has no formula yet.`));
      return null;
    }
    const compiled = this.formula(key, 'value', value.formula, type);
    return compiled && { kind: value.kind, formula: compiled, definition: value };
  }

  private column(key: string, definition: Field): Column | null {
    if (!definition.column) return null;
    const column = this.tables.get(this.form.table)?.columns.find((c) => c.key === definition.column);
    // a column that does not exist yet is made when the form is published
    if (!column) return null;
    if (column.type !== definition.type) {
      const message = `The field is ${T.typeInWords(typeOfColumn(definition.type, null))}, but its column ${column.key} holds ${T.typeInWords(typeOfColumn(column.type, column.target))}.`;
      this.problems.push(formProblem('columnType', key, 'column', message));
    } else if (column.type === 'link' && definition.source?.kind === 'rows' && definition.source.table !== column.target) {
      const message = `The column ${column.key} holds rows of ${this.label(column.target)}, but the choices are rows of ${this.label(definition.source.table)}.`;
      this.problems.push(formProblem('columnType', key, 'source', message));
    }
    return column;
  }

  private label(table: string | null): string {
    return (table && this.tables.get(table)?.label) ?? table ?? 'no table';
  }

  private choices(key: string, definition: Field): PlanChoices | null {
    const { source, type } = definition;
    const chooses = type === 'link' || type === 'person' || type === 'choice';
    if (!source) {
      if (chooses) this.problems.push(formProblem('noSource', key, 'source', 'Nothing says yet where the choices come from.'));
      return null;
    }
    if (!chooses) return null;
    switch (source.kind) {
      case 'options':
      case 'list':
        return this.listed(key, definition, source);
      case 'distinct':
        return this.distinct(key, definition, source);
      case 'rows':
        return this.rows(key, definition, source);
    }
  }

  /** Choices kept by hand: typed in place, or an option list (or one level of it). */
  private listed(key: string, definition: Field, source: Extract<FieldSource, { kind: 'options' | 'list' }>): PlanChoices | null {
    const note = (code: FormProblem['code'], message: string): null => {
      this.problems.push(formProblem(code, key, 'source', message));
      return null;
    };
    if (definition.type !== 'choice') return note('noSource', 'A list of choices needs a field of type Choice.');
    let options: Row[];
    if (source.kind === 'options') {
      options = source.options.map((o, i) => ({ id: i + 1, value: o.value, label: o.label, parent: null, level: 1, retired: false }));
      if (!options.length) note('noOptions', 'The list typed in place has no choices yet.');
    } else {
      const list = this.lists.get(source.list);
      if (!list) return note('noTable', `There is no option list “${source.list}”.`);
      const levels = levelsOf(list);
      if (source.level !== null && source.level > levels)
        note('noOptions', `${list.label} has only ${levels} ${levels === 1 ? 'level' : 'levels'}.`);
      // what is retired is offered no more; a record that has it keeps it, flagged
      options = optionRowsOf(list, source.level).filter((r) => r.retired !== true);
    }
    const where = this.formula(key, 'where', source.where, T.YESNO, this.candidateScope(null));
    return {
      source,
      table: null,
      stores: 'value',
      options,
      values: null,
      large: false,
      sort: [],
      search: ['label'],
      narrowing: where && narrowingOf(where),
    };
  }

  /** The values of a text column, each once. */
  private distinct(key: string, definition: Field, source: Extract<FieldSource, { kind: 'distinct' }>): PlanChoices | null {
    const note = (code: FormProblem['code'], message: string): null => {
      this.problems.push(formProblem(code, key, 'source', message));
      return null;
    };
    const table = this.tables.get(source.table);
    if (!table) return note('noTable', `There is no table “${source.table}”.`);
    if (definition.type !== 'choice') return note('noSource', 'Values of a column need a field of type Choice.');
    if (source.values === null) return note('noShownColumn', `Say which column of ${table.label} the choices are values of.`);
    const column = columnOf(table, source.values);
    if (!column || !isFolded(column.type)) return note('noColumn', `${table.label} has no text column “${source.values}”.`);
    const where = this.formula(key, 'where', source.where, T.YESNO, this.candidateScope(source.table));
    const narrowing = where && narrowingOf(where);
    return {
      source,
      table: source.table,
      stores: 'value',
      options: null,
      values: column.key,
      large: table.large,
      sort: [column],
      search: ['label'],
      narrowing,
    };
  }

  private rows(key: string, definition: Field, source: RowsSource): PlanChoices | null {
    const { type } = definition;
    const table = this.tables.get(source.table);
    if (!table || type === 'choice') {
      const message = table ? 'Rows of a table are stored by a field of type Link to a row.' : `There is no table “${source.table}”.`;
      this.problems.push(formProblem('noTable', key, 'source', message));
      return null;
    }
    if (type === 'person' && source.table !== 'people') {
      this.problems.push(formProblem('noTable', key, 'source', 'A person is a row of People.'));
    }
    for (const column of [source.show, ...source.beside, ...source.search, ...source.sort]) {
      if (column !== null && !columnOf(table, column)) {
        this.problems.push(formProblem('noColumn', key, 'source', `${table.label} has no column “${column}”.`));
      }
    }
    if (source.show === null) {
      const message = `No column of ${table.label} is shown, so the list would be blank. Choose the column people know the rows by.`;
      this.problems.push(formProblem('noShownColumn', key, 'source', message));
    }
    const columns = (names: readonly string[]): Column[] => names.map((n) => columnOf(table, n)).filter((c) => c !== undefined);
    const sort = source.sort.length ? source.sort : source.show ? [source.show] : [];
    const search = source.search.length ? source.search : source.show ? [source.show, ...source.beside] : [];
    const where = this.formula(key, 'where', source.where, T.YESNO, this.candidateScope(source.table));
    return {
      source,
      table: source.table,
      stores: 'row',
      options: null,
      values: null,
      large: table.large,
      sort: columns(sort),
      search: columns(search)
        .filter((c) => isFolded(c.type))
        .map((c) => c.key),
      narrowing: where && narrowingOf(where),
    };
  }

  /** The scope of a narrowing: `choice` is the candidate row; of a list typed in place it has a value and a label. */
  private candidateScope(table: string | null): Scope {
    const type: Type = table ? T.rowOf(table) : T.rowOf(OPTION_ROWS);
    const scope = withBinding(this.scope, { name: 'choice', label: 'The row on offer', type, source: { kind: 'candidate' } });
    return table ? scope : { ...scope, tables: new Map(scope.tables).set(OPTION_ROWS, OPTION_SHAPE) };
  }

  columnsUsedOnce(fields: readonly PlanField[]): void {
    const users = new Map<string, string>();
    for (const { key, definition } of fields) {
      if (!definition.column) continue;
      const other = users.get(definition.column);
      if (other) {
        const message = `Its column ${definition.column} is already used by “${this.form.fields[other]?.label ?? other}”. Two fields cannot save into one column.`;
        this.problems.push(formProblem('columnTwice', key, 'column', message));
      }
      users.set(definition.column, key);
    }
  }
}

const OPTION_ROWS = 'options';
const OPTION_SHAPE = {
  key: OPTION_ROWS,
  label: 'the list',
  shown: 'label',
  columns: new Map(
    OPTION_COLUMNS.map((k) => [k, { key: k, label: k, type: k === 'level' ? T.NUMBER : k === 'retired' ? T.YESNO : T.TEXT }]),
  ),
};

interface Graph {
  readonly fields: readonly PlanField[];
  readonly cells: readonly Cell[];
  readonly dependents: readonly (readonly number[])[];
  readonly cellOf: Readonly<Record<CellKind, Int32Array>>;
  readonly drivers: readonly (readonly Driver[])[];
}

/** The slots a field's cell reads. */
function slotsOf(field: PlanField, kind: CellKind): readonly number[] {
  switch (kind) {
    case 'shown':
      return [...field.shown.flatMap((f) => f.slots), ...(waitsHidden(field) ? (field.choices?.narrowing?.drivers ?? []) : [])];
    case 'choices':
      return field.choices?.narrowing?.formula.slots ?? [];
    case 'value':
      return field.value?.formula.slots ?? [];
    case 'required':
      return field.required?.slots ?? [];
    case 'locked':
      return field.locked?.slots ?? [];
    case 'checks':
      return field.checks.flatMap((c) => c.when.slots);
  }
}

/** Whether the field is hidden while its list waits for a driver. */
export const waitsHidden = (field: PlanField): boolean =>
  field.choices?.source.waiting === 'hide' && (field.choices.narrowing?.drivers.length ?? 0) > 0;

function has(field: PlanField, kind: CellKind): boolean {
  switch (kind) {
    case 'shown':
      return field.shown.length > 0 || waitsHidden(field);
    case 'choices':
      return field.choices !== null;
    case 'value':
      return true;
    case 'required':
      return field.required !== null;
    case 'locked':
      return field.locked !== null;
    case 'checks':
      return field.checks.length > 0;
  }
}

function buildGraph(fields: readonly PlanField[], problems: FormProblem[]): Graph {
  const provisional: { kind: CellKind; slot: number }[] = [];
  const at = new Map<string, number>();
  for (const field of fields) {
    for (const kind of CELL_KINDS) {
      if (!has(field, kind)) continue;
      at.set(`${kind} ${field.slot}`, provisional.length);
      provisional.push({ kind, slot: field.slot });
    }
  }
  const cellAt = (kind: CellKind, slot: number): number | undefined => at.get(`${kind} ${slot}`);
  const readsOf = (kind: CellKind, slot: number): number[] => {
    const field = fields[slot] as PlanField;
    const reads = slotsOf(field, kind).map((s) => cellAt('value', s) as number);
    const own: CellKind[] = kind === 'value' ? ['shown', 'choices'] : kind === 'required' ? ['shown'] : [];
    if (kind === 'checks') own.push('value');
    for (const k of own) {
      const cell = cellAt(k, slot);
      if (cell !== undefined) reads.push(cell);
    }
    return reads;
  };
  const reads = provisional.map((c) => readsOf(c.kind, c.slot));
  const { order: sorted, cycles } = order(reads);
  const broken = new Set<number>();
  for (const cycle of cycles) {
    for (const cell of cycle) broken.add(provisional[cell]?.slot ?? -1);
    problems.push(
      cycleProblem(
        fields,
        cycle.map((c) => provisional[c] as { kind: CellKind; slot: number }),
      ),
    );
  }
  const position = new Int32Array(provisional.length);
  sorted.forEach((cell, id) => (position[cell] = id));
  const cells = sorted.map((cell, id): Cell => ({ id, ...(provisional[cell] as { kind: CellKind; slot: number }) }));
  const dependents: number[][] = cells.map(() => []);
  reads.forEach((sources, cell) => {
    for (const source of new Set(sources)) {
      // edges inside a cycle point backwards and are left out: the cells of a cycle are not computed
      if ((position[source] as number) < (position[cell] as number)) dependents[position[source] as number]?.push(position[cell] as number);
    }
  });
  const cellOf = Object.fromEntries(
    CELL_KINDS.map((kind) => [kind, Int32Array.from(fields, (f) => { const c = cellAt(kind, f.slot); return c === undefined ? -1 : (position[c] as number); })]),
  ) as Record<CellKind, Int32Array>; // prettier-ignore
  return {
    fields: fields.map((f) => (broken.has(f.slot) ? { ...f, value: null, choices: f.choices && { ...f.choices, narrowing: null } } : f)),
    cells,
    dependents: dependents.map((d) => d.sort((a, b) => a - b)),
    cellOf,
    drivers: fields.map((f) => driversOf(f)),
  };
}

function driversOf(field: PlanField): Driver[] {
  const found: Driver[] = [];
  for (const through of CELL_KINDS) {
    for (const slot of new Set(slotsOf(field, through))) {
      if (slot !== field.slot && !found.some((d) => d.slot === slot)) found.push({ slot, through });
    }
  }
  return found;
}

function cycleProblem(fields: readonly PlanField[], cycle: readonly { kind: CellKind; slot: number }[]): FormProblem {
  const slots: number[] = [];
  // written the way values flow: what is read first
  for (const { slot } of [...cycle].reverse()) if (slots.at(-1) !== slot) slots.push(slot);
  if (slots.length > 1 && slots[0] === slots.at(-1)) slots.pop();
  const path = [...slots, slots[0] as number].map((s) => fields[s] as PlanField);
  const message = `These fields wait for each other: ${path.map((f) => f.definition.label).join(' → ')}. Nothing in the circle can be computed; take one step out.`;
  const first = cycle[0] as { kind: CellKind; slot: number };
  const part: FieldPart = first.kind === 'choices' ? 'where' : first.kind === 'checks' ? 'checks.0' : first.kind;
  return formProblem('cycle', path[0]?.key ?? null, part, message, { path: path.map((f) => f.key) });
}

import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { type Mend, mendOfFix } from '../form/mend.ts';
import { quoted } from '../form/who.ts';
import { type Form, fieldAt, placedOrder } from '../form/definition.ts';
import type { Formula } from '../formula/formula.ts';
import { type Syntax, ungroup } from '../formula/syntax.ts';
import type { Tables } from '../model/tables.ts';
import { nearest } from '../values/text.ts';
import type { Type } from '../values/typing.ts';
import type { Env } from '../formula/env.ts';
import { compileFormInSteps } from './compile.ts';
import type { PlanCondition } from './conditions.ts';
import { atOnce } from './inSteps.ts';
import { equatedColumns } from './looked.ts';
import type { Plan, PlanField } from './plan.ts';

/*
 * Mistakes that stand between the parts of a form, each of which is in order by itself: found from the compiled form, without running it.
 * All of them are warnings: the form runs, but hardly as it is meant. Only what is certain is said.
 */
type Compiled = Pick<Plan, 'form' | 'fields' | 'lines' | 'rules' | 'steps' | 'tables' | 'formulas'>;

/** Compiles a form (`compileForm`) for those who build it: its problems say what is doubtful too. */
export function compileDraft(...of: Parameters<typeof compileFormInSteps>): Plan {
  return atOnce(compileDraftInSteps(...of));
}
/** The same in steps, a field in each; takes, gives and throws what `compileFormInSteps` does. */
export function* compileDraftInSteps(...of: Parameters<typeof compileFormInSteps>): Generator<void, Plan> {
  const plan = yield* compileFormInSteps(...of);
  return { ...plan, problems: [...plan.problems, ...(yield* mistakesIn(plan))] };
}

/** What is doubtful in a compiled form, field by field. Cost: linear in fields, formulas and the options of narrowed lists. */
function* mistakesIn(compiled: Compiled): Generator<void, FormProblem[]> {
  const { fields } = compiled;
  const set = settersOf(compiled);
  const columns = new Set(fields.map((f) => `${f.group} ${f.definition.column}`));
  yield;
  const read = yield* readIn(compiled);
  const places = new Map(placedOrder(compiled.form).map((k, i) => [k, i]));
  const found: FormProblem[] = [];
  for (const field of fields) {
    yield;
    found.push(
      ...stateMistakes(field, set),
      ...checkMistakes(field, compiled.form),
      ...waitMistakes(field, fields, places, set),
      ...optionMistakes(field),
      ...largeMistakes(field, compiled.tables),
      ...setterMistakes(field, set),
      ...valueMistakes(field, fields),
      ...unusedMistakes(field, read, set, columns),
    );
  }
  return found;
}

const warning = (
  code: FormProblem['code'],
  field: PlanField,
  part: FieldPart | null,
  message: string,
  mend: Mend | null = null,
): FormProblem => formProblem(code, field.key, part, message, { severity: 'warning', mend });

/** Whether a condition is met always (true) or never (false), as far as it is written so; null when it depends. */
function fixed({ formula, wants, mode }: PlanCondition): boolean | null {
  if (mode !== 'both') return null;
  const node = formula?.syntax ? ungroup(formula.syntax) : null;
  return formula === null ? wants : node?.kind === 'yesno' ? node.value === wants : null;
}
const isNever = (c: PlanCondition): boolean => fixed(c) === false;
const isAlways = (c: PlanCondition): boolean => fixed(c) === true;
/** What hides a field for good: a condition that never holds. */
const hiding = (field: PlanField): PlanCondition | undefined => field.shown.find(isNever);
const owner = ({ of }: PlanCondition): string => (of.kind === 'field' ? '' : `, because its ${of.kind} ${of.label}`.trimEnd());

// ---- states ----

function stateMistakes(field: PlanField, set: Setters): FormProblem[] {
  const hides = hiding(field);
  const required = field.required.filter((c) => !isNever(c));
  if (hides && required.length) {
    const message = `It is required, but is never shown${hides.of.kind === 'field' ? '' : `${owner(hides)} is not`}: nobody can fill it, and it is not asked for.`;
    const own = required.every((c) => c.of.kind === 'field');
    return [
      warning(
        'neverFilled',
        field,
        'required',
        message,
        own ? { kind: 'set', field: field.key, change: { required: null }, label: 'Do not require it' } : null,
      ),
    ];
  }
  const fills = field.value !== null || field.choices !== null || (set.get(field.slot) ?? []).length > 0;
  const locks = field.locked.find((c) => isAlways(c) && !field.filling.includes(c));
  if (!fills && locks && field.required.some(isAlways)) {
    const message = `It is required and read-only, and nothing fills it: no new record can be saved.`;
    const mend: Mend = { kind: 'set', field: field.key, change: { locked: null }, label: 'Let it be filled' };
    return [warning('neverFilled', field, 'locked', message, locks.of.kind === 'field' ? mend : null)];
  }
  return [];
}

// ---- checks ----

function checkMistakes(field: PlanField, form: Form): FormProblem[] {
  const own = fieldAt(form, field.key)?.checks ?? [];
  const begun = own.flatMap((c, i) =>
    c.when.trim() === '' ? [warning('emptyFormula', field, `checks.${i}`, `A check has no condition yet: it says nothing.`)] : [],
  );
  const refuses = field.checks.filter(
    (c) => c.severity === 'error' && c.when.of.kind !== 'rule' && isAlways(c.when) && field.shown.length === 0,
  );
  return [
    ...begun,
    ...refuses.map((c) => {
      const at = own.findIndex((o) => o.severity === 'error' && ungroupedYes(o.when));
      const of = c.when.of.kind === 'field' ? '' : ` of ${c.when.of.label}`;
      return warning('alwaysTrue', field, at < 0 ? null : `checks.${at}`, `A check${of} refuses always: nobody could ever save a record.`);
    }),
  ];
}
const ungroupedYes = (text: string): boolean => /^\s*\(*\s*true\s*\)*\s*$/i.test(text);

// ---- lists that wait ----

function waitMistakes(field: PlanField, fields: readonly PlanField[], places: ReadonlyMap<string, number>, set: Setters): FormProblem[] {
  const { narrowing, source } = field.choices ?? {};
  if (!narrowing || !source || source.waiting === 'all') return [];
  const at = (f: PlanField): number => places.get(f.group === null ? f.key : (f.key.split('.')[0] ?? '')) ?? -1;
  const inLine = (f: PlanField): number => (f.group === null ? -1 : f.at);
  return narrowing.drivers.flatMap((slot) => {
    const driver = fields[slot];
    // what fills itself is there wherever it stands
    if (!driver || driver.value !== null || (set.get(slot) ?? []).length) return [];
    const [own, its] = [field.definition.label, driver.definition.label];
    const hides = hiding(driver);
    if (hides) return [warning('driverHidden', field, 'where', `It offers nothing until ${its} is filled, which is never shown.`)];
    const below =
      driver.group === field.group
        ? at(driver) > at(field) || (at(driver) === at(field) && inLine(driver) > inLine(field))
        : at(driver) > at(field);
    if (!below) return [];
    const message = `It offers nothing until ${its} is filled, which stands below it: who enters from the top finds an empty list.`;
    const mend: Mend = { kind: 'moveAbove', field: driver.key, above: field.key, label: `Move ${its} above ${own}` };
    return [warning('driverBelow', field, 'where', message, field.group === null && driver.group === null ? mend : null)];
  });
}

// ---- options that are not there ----

const NOWHERE = { values: [], params: [], candidate: null, outer: null } as unknown as Env;
/** A part of a narrowing that asks nothing of the entry, and that none of the options meets. */
function optionMistakes(field: PlanField): FormProblem[] {
  const { narrowing, options } = field.choices ?? {};
  if (!narrowing || !options?.length) return [];
  return narrowing.parts.flatMap((part) => {
    const isFixed = part.params.length === 0 && part.drivers.length === 0 && part.through === null;
    if (!isFixed || narrowing.formula.slots.length > 0 || options.some((row) => part.run({ ...NOWHERE, candidate: row }) !== false))
      return [];
    const message = `None of its options meets “${part.text}”: it offers nothing.`;
    return [warning('neverTrue', field, 'where', message)];
  });
}

/** A narrowing of a large table that nothing can be looked up by: all of it is looked through, each time the list is asked for. */
function largeMistakes({ choices, ...field }: PlanField, tables: Tables): FormProblem[] {
  const table = choices?.table ? tables.get(choices.table) : undefined;
  if (!choices?.large || !table || !choices.narrowing?.parts.length || equatedColumns(choices, table).length) return [];
  const message = `Its list looks through all of ${table.label} (a large table) each time: none of its conditions says that a column of it is a certain value, by which rows could be looked up. Add one, such as “its … is the entry’s …”.`;
  return [formProblem('looksThrough', field.key, 'where', message, { severity: 'warning' })];
}

/** What a formula may come to that is written out in it: texts where a result stands. */
function resultsIn(node: Syntax): readonly Extract<Syntax, { kind: 'text' }>[] {
  const inner = ungroup(node);
  if (inner.kind === 'text') return [inner];
  if (inner.kind !== 'call') return [];
  const args = inner.args.map((a) => a.value);
  const branches =
    inner.name === 'IF' ? args.slice(1)
    : inner.name === 'COALESCE' || inner.name === 'IFERROR' || inner.name === 'IFNA' ? args
    : inner.name === 'IFS' ? args.filter((_, i) => i % 2 === 1)
    : inner.name === 'SWITCH' ? args.filter((_, i) => i > 0 && (i % 2 === 0 || i === args.length - 1))
    : []; // prettier-ignore
  return branches.flatMap(resultsIn);
}
function notOffered(type: Type, formula: Formula | null): { text: string; near: string | null; from: number; to: number }[] {
  const of = type.kind === 'list' ? type.of : type;
  const options = of.kind === 'choice' ? of.options : null;
  if (!options || !formula?.syntax) return [];
  return resultsIn(formula.syntax)
    .filter((t) => t.value !== '' && !options.some((o) => o.toUpperCase() === t.value.toUpperCase()))
    .map((t) => ({ text: t.value, near: nearest(t.value, options, 1)[0] ?? null, from: t.from, to: t.to }));
}
/** What fills a choice although its list does not offer it. */
function valueMistakes(field: PlanField, fields: readonly PlanField[]): FormProblem[] {
  const said = (into: PlanField, formula: Formula | null, part: FieldPart, what: string): FormProblem[] =>
    notOffered(into.type, formula).map(({ text, near, from, to }) => {
      const hint = near === null ? '' : ` Did you mean “${near}”?`;
      const fixes = near === null ? [] : [{ from, to, insert: quoted(near), label: `Use “${near}”` }];
      const message = `${what} “${text}”, which ${into === field ? 'its list' : into.definition.label} does not offer.${hint}`;
      const at = { path: field.key, part };
      const mend = fixes[0] && formula ? mendOfFix(at, formula.text, fixes[0]) : null;
      return formProblem('notOffered', field.key, part, message, { severity: 'warning', span: { from, to }, fixes, at, mend });
    });
  const { value, spreads } = field;
  return [
    ...(value ? said(field, value.formula, 'value', value.kind === 'default' ? 'It starts with' : 'It may be filled with') : []),
    ...spreads.flatMap((s, i) => said(fields[s.slot] as PlanField, s.formula, `spreads.${i}`, 'It sets')),
  ];
}

// ---- who sets what ----

type SetBy = 'change' | 'rule' | 'move' | 'fill';
interface Setter {
  readonly label: string;
  readonly by: SetBy;
  /** of a choice that fills the fields above it: its slot */
  readonly from: number | null;
}
type Setters = ReadonlyMap<number, readonly Setter[]>;
/** What gives fields a value beside their own formula: changes of other fields, rules, moves, choices below; clearing gives none. */
export function settersOf({ fields, rules, steps }: Pick<Compiled, 'fields' | 'rules' | 'steps'>): Setters {
  const found = new Map<number, Setter[]>();
  const put = (slot: number, label: string, by: SetBy, from: number | null = null): void => {
    const all = found.get(slot) ?? [];
    if (!all.some((s) => s.label === label && s.by === by)) all.push({ label, by, from });
    found.set(slot, all);
  };
  for (const f of fields) for (const s of f.spreads) if (s.formula) put(s.slot, f.definition.label, 'change');
  for (const r of rules) for (const a of [...r.then, ...r.otherwise]) if (a.kind === 'set' && a.formula) put(a.slot, r.label, 'rule');
  for (const m of steps?.moves ?? []) for (const a of m.sets) if (a.kind === 'set' && a.formula) put(a.slot, m.definition.label, 'move');
  // choosing a row fills the fields above it
  for (const f of fields) for (const slot of f.choices?.fills ?? []) put(slot, f.definition.label, 'fill', f.slot);
  return found;
}
/** Two that set one value; two rules are told apart at the later of them. */
function setterMistakes(field: PlanField, set: Setters): FormProblem[] {
  const all = (set.get(field.slot) ?? []).filter((s) => s.by === 'change' || s.by === 'rule');
  if (all.length < 2 || all.every((s) => s.by === 'rule')) return [];
  const named = all.map((s) => (s.by === 'rule' ? `the rule “${s.label}”` : `a change of ${s.label}`)).join(' and by ');
  return [warning('setTwice', field, null, `It is set by ${named}: whichever comes last wins.`)];
}

// ---- what nobody uses ----

/** How many formulas are looked through in one step. */
const FORMULAS_AT_ONCE = 100;

/** Fields that something reads. */
function* readIn({ form, fields, lines, rules, steps, formulas }: Compiled): Generator<void, ReadonlySet<number>> {
  const read = new Set<number>();
  for (const [i, f] of formulas.entries()) {
    for (const slot of [...f.slots, ...f.lists.slots, ...f.items]) read.add(slot);
    if (i % FORMULAS_AT_ONCE === 0) yield;
  }
  for (const r of rules) for (const slot of r.triggers) read.add(slot);
  for (const f of fields) for (const slot of [...(f.choices?.fills ?? []), ...(f.spreads.length ? [f.slot] : [])]) read.add(slot);
  for (const m of steps?.moves ?? []) for (const { slot } of m.filled) read.add(slot);
  const named = new Set([form.steps?.field, ...(form.owners?.fields ?? [])]);
  for (const f of fields) if (named.has(f.key)) read.add(f.slot);
  // what is asked of all lines at once reads the whole of them
  const groups = new Set(formulas.flatMap((f) => f.lists.groups));
  for (const l of lines) if (groups.has(l.group)) for (let i = 0; i < l.count; i++) read.add(l.first + i);
  return read;
}
function unusedMistakes(field: PlanField, read: ReadonlySet<number>, set: Setters, columns: ReadonlySet<string>): FormProblem[] {
  const { column } = field.definition;
  // what is filled is there to be looked at
  if (column !== null || field.value !== null || set.has(field.slot) || read.has(field.slot)) return [];
  const message = `What is entered in it is kept nowhere, and nothing reads it. Save it in a column, or take it out.`;
  const key = field.key.split('.').at(-1) ?? field.key;
  const mend: Mend = { kind: 'set', field: field.key, change: { column: key }, label: `Save it in a column ${key}` };
  // two fields cannot save into one column
  return [warning('unused', field, 'column', message, columns.has(`${field.group} ${key}`) ? null : mend)];
}

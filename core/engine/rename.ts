import { subsetScope } from '../choices/subsets.ts';
import { type Field, type Form, fieldAt } from '../form/definition.ts';
import { placeKey } from '../form/formulas.ts';
import { ofForm, withNamed } from '../form/references.ts';
import type { RuleEffect } from '../form/rules.ts';
import { formula } from '../formula/formula.ts';
import { type Named, namesIn, withNames } from '../formula/names.ts';
import { type Subset, type Table, type Tables, keyProblem, shapesOf } from '../model/tables.ts';
import { YESNO } from '../values/typing.ts';
import type { Plan } from './plan.ts';
import { linesTable } from './scopes.ts';

/** What gets another name. `from` and `to` are keys. */
export type ModelRenaming =
  | { readonly kind: 'table'; readonly from: string; readonly to: string }
  | { readonly kind: 'column'; readonly table: string; readonly from: string; readonly to: string };

/** What a word of a formula is called once a table or a column is; null where it stays. */
function renamedWord(change: ModelRenaming): (named: Named) => string | null {
  if (change.kind === 'table') return (n) => (n.kind === 'table' && n.table === change.from ? change.to : null);
  return (n) => (n.kind === 'column' && n.table === change.table && n.column === change.from ? change.to : null);
}

/** The form with its formulas written as `rename` says. A formula that cannot be read stays as it is. */
export function withFormulas(plan: Plan, form: Form, rename: (named: Named) => string | null): Form {
  const written = new Map(plan.written.map((w) => [placeKey(w), w]));
  return withNamed(
    form,
    ofForm({
      formula: (at) => {
        const known = written.get(placeKey(at));
        // what is not this text was left out by the compiler and cannot be told word by word
        return known?.text === at.text ? withNames(at.text, namesIn(known.formula), rename) : at.text;
      },
    }),
  );
}

/** A form as it is when a table or a column of the model gets another name: the same form, with every place that names it. */
export function withModelRenamed(plan: Plan, change: ModelRenaming): Form {
  const form = withFormulas(plan, plan.form, renamedWord(change));
  return withNamed(
    form,
    ofForm({
      table: (key) => (change.kind === 'table' && key === change.from ? change.to : key),
      column: (table, key) => (change.kind === 'column' && table === change.table && key === change.from ? change.to : key),
    }),
  );
}

/** The subsets of a table as they are when a table or a column gets another name. */
export const subsetsRenamed = (table: Pick<Table, 'key' | 'subsets'>, tables: Tables, change: ModelRenaming): readonly Subset[] =>
  subsetsWith(table, tables, renamedWord(change));

/** The subsets of a table with the words of their conditions as `word` writes them (null: as they are). Takes the tables as they are before. */
export function subsetsWith(
  table: Pick<Table, 'key' | 'subsets'>,
  tables: Tables,
  word: (named: Named) => string | null,
): readonly Subset[] {
  const shapes = { tables: shapesOf(tables) };
  return (table.subsets ?? []).map((s) => {
    const condition = formula(s.condition, subsetScope(shapes, table.key), YESNO);
    return { ...s, condition: withNames(s.condition, namesIn(condition), word) };
  });
}

/** Why a field, or lines, cannot have this name, as a sentence; null when they can. `path` is whose name it is. */
export function fieldNameProblem(plan: Plan, path: string, to: string): string | null {
  const { form } = plan;
  const odd = keyProblem(to);
  if (odd !== null) return odd;
  const [outer = '', inner] = path.split('.');
  if (to === (inner ?? outer)) return null;
  const lines = inner === undefined ? undefined : form.lines[outer];
  const taken = lines ? lines.columns : [...Object.keys(form.fields), ...Object.keys(form.lines)];
  if (taken.includes(to)) return `There is “${to}” ${lines ? 'in these lines' : 'in this form'} already.`;
  // inside lines their own fields go before those of the form: what reads one would come to read the other
  const hides = (group: string, hidden: string): boolean => {
    const slot = plan.slots.get(hidden);
    const number = plan.lines.find((l) => l.key === hidden)?.group;
    return plan.written.some(
      (w) => w.path.startsWith(`${group}.`) && (w.formula.slots.includes(slot ?? -1) || w.formula.lists.groups.includes(number ?? -1)),
    );
  };
  const groups = Object.entries(form.lines).filter(([, l]) => l.columns.includes(to)).map(([key]) => key); // prettier-ignore
  const hidden = inner === undefined ? groups.find((g) => hides(g, path)) : hides(outer, to) ? outer : undefined;
  return hidden === undefined ? null : `In the lines ${form.lines[hidden]?.label ?? hidden}, “${to}” would come to mean another field.`;
}

/**
 * The form of a plan with a field (by path), or lines, under another name, in every place and formula that names it. A column
 * that only the draft knows is renamed with it; one that exists keeps its name. Throws RangeError when the name cannot be had.
 */
export function renameField(plan: Plan, path: string, to: string): Form {
  const problem = fieldNameProblem(plan, path, to);
  if (problem !== null) throw new RangeError(problem);
  const [outer = '', inner] = path.split('.');
  const group = plan.lines.find((l) => l.key === (inner === undefined ? path : outer));
  const slot = plan.slots.get(path);
  const table = inner === undefined ? null : linesTable(outer);
  const names = (n: Named): boolean =>
    n.kind === 'field' ? n.slot === slot
    : n.kind === 'lines' ? inner === undefined && n.group === group?.group
    : n.kind === 'saved' ? inner === undefined && n.name === path
    : n.kind === 'column' && table !== null && n.table === table && n.column === inner; // prettier-ignore
  const form = withFormulas(plan, plan.form, (n) => (names(n) ? to : null));
  const own = inner ?? outer;
  const key = (k: string): string => (k === own ? to : k);
  const keyed = <T>(all: Readonly<Record<string, T>>): Record<string, T> =>
    Object.fromEntries(Object.entries(all).map(([k, v]) => [key(k), v]));
  const renamed = inner === undefined ? to : `${outer}.${to}`;
  /** a field of a rule, by path: itself, or one of the lines that get another name */
  const named = (p: string): string =>
    p === path ? renamed : inner === undefined && p.startsWith(`${path}.`) ? `${to}${p.slice(path.length)}` : p;
  const effect = (e: RuleEffect): RuleEffect =>
    e.kind === 'step'
      ? e
      : e.kind === 'addLine'
        ? { ...e, lines: named(e.lines), values: inner !== undefined && e.lines === outer ? keyed(e.values) : e.values }
        : ({ ...e, ...(e.field === null ? {} : { field: named(e.field) }) } as RuleEffect);
  const rules = form.rules.map((r) => ({
    ...r,
    changes: r.changes.map(named),
    then: r.then.map(effect),
    otherwise: r.otherwise.map(effect),
  }));
  const place = (p: string): string => (p.startsWith('@') ? p : named(p));
  const access = form.access.map((a) => ({ ...a, place: place(a.place) }));
  const steps = form.steps && {
    ...form.steps,
    field: named(form.steps.field),
    moves: form.steps.moves.map((m) => ({
      ...m,
      filled: m.filled.map(named),
      sets: m.sets.map((s) => ({ ...s, field: named(s.field) })),
    })),
  };
  const owners = form.owners && { ...form.owners, fields: form.owners.fields.map(named) };
  const behaviour = { rules, steps, access, owners };
  /** fields that stand beside it, which may set it; and itself, with its column where that is only to be made */
  const beside = (fields: Readonly<Record<string, Field>>, saved: string): Record<string, Field> => {
    const known = plan.tables.get(saved)?.columns.some((c) => c.key === own) ?? true;
    const one = (f: Field): Field => ({
      ...f,
      column: !known && f === fieldAt(form, path) && f.column === own ? to : f.column,
      spreads: f.spreads.map((s) => ({ ...s, field: key(s.field) })),
    });
    return keyed(Object.fromEntries(Object.entries(fields).map(([k, f]) => [k, one(f)])));
  };
  if (inner !== undefined) {
    const lines = form.lines[outer];
    if (!lines) throw new RangeError(`The form has no lines “${outer}”.`);
    const changed = { ...lines, fields: beside(lines.fields, lines.table), columns: lines.columns.map(key) };
    return { ...form, ...behaviour, lines: { ...form.lines, [outer]: changed } };
  }
  return {
    ...form,
    ...behaviour,
    fields: beside(form.fields, form.table),
    // fields of lines may set fields of the form around them only by formulas, not by name
    lines: keyed(form.lines),
    pages: form.pages.map((p) => ({ ...p, sections: p.sections.map((s) => ({ ...s, fields: s.fields.map(key) })) })),
  };
}

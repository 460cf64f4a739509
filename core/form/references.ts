import { sourceNamed } from '../choices/sources/index.ts';
import { type References, through } from '../model/references.ts';
import type { Field, Form, Lines } from './definition.ts';
import type { FormulaPlace } from './formulas.ts';

/** References of a form: formulas are told with the place they stand at. */
export interface FormReferences extends Omit<References, 'formula'> {
  formula(at: FormulaPlace): string;
}

/** What is done with the names of a form; names that are not spoken of stay as they are. */
export const ofForm = ({ formula, ...some }: Partial<FormReferences>): FormReferences => ({
  ...through(some),
  formula: formula ?? ((at) => at.text),
});

/**
 * A form with every table, column, subset, option list and feed it names, and every formula, passed through `to`: the one way over
 * all of a definition. The names of its own fields stand in formulas and in places that only `renameField` changes. Cost: linear.
 */
export function withNamed(form: Form, to: FormReferences): Form {
  const field = (path: string, f: Field, table: string, group: string | null): Field => {
    const label = group === null ? f.label : `${group}: ${f.label}`;
    const formula = <T extends string | null>(part: FormulaPlace['part'], text: T): T | string =>
      text === null || text.trim() === '' ? text : to.formula({ path, part, label, text });
    return {
      ...f,
      column: f.column && to.column(table, f.column),
      source: f.source && sourceNamed(f.source, { ...to, formula: (part, text) => formula(part as FormulaPlace['part'], text) }),
      value: f.value && { ...f.value, formula: formula('value', f.value.formula) },
      shown: formula('shown', f.shown),
      required: formula('required', f.required),
      locked: formula('locked', f.locked),
      checks: f.checks.map((c, i) => ({ ...c, when: formula(`checks.${i}`, c.when) })),
      spreads: f.spreads.map((s, i) => ({ ...s, formula: formula(`spreads.${i}`, s.formula), when: formula(`spreads.${i}.when`, s.when) })),
    };
  };
  const all = (fields: Form['fields'], table: string, prefix: string, group: string | null): Form['fields'] =>
    Object.fromEntries(Object.entries(fields).map(([key, f]) => [key, field(`${prefix}${key}`, f, table, group)]));
  const lines = (key: string, l: Lines): Lines => ({
    ...l,
    table: to.table(l.table),
    link: to.column(l.table, l.link),
    order: l.order && to.column(l.table, l.order),
    fields: all(l.fields, l.table, `${key}.`, l.label),
    shown: l.shown && to.formula({ path: key, part: 'shown', label: l.label, text: l.shown }),
  });
  return {
    ...form,
    table: to.table(form.table),
    parent: form.parent && to.table(form.parent),
    known: form.known && to.column(form.table, form.known),
    pages: form.pages.map((p) => ({
      ...p,
      sections: p.sections.map((s) => ({
        ...s,
        shown: s.shown && to.formula({ path: s.id, part: 'shown', label: s.label, text: s.shown }),
      })),
    })),
    fields: all(form.fields, form.table, '', null),
    lines: Object.fromEntries(Object.entries(form.lines).map(([key, l]) => [key, lines(key, l)])),
  };
}

/** Looks at everything a form names, and changes nothing. */
export function eachNamed(
  form: Form,
  look: { readonly [K in keyof FormReferences]?: (...args: Parameters<FormReferences[K]>) => void },
): void {
  withNamed(form, ofForm({
    table: (key) => (look.table?.(key), key),
    column: (table, key) => (look.column?.(table, key), key),
    subset: (table, key) => (look.subset?.(table, key), key),
    list: (key) => (look.list?.(key), key),
    feed: (key) => (look.feed?.(key), key),
    formula: (at) => (look.formula?.(at), at.text),
  })); // prettier-ignore
}

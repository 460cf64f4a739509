import { sourceNamed } from '../choices/sources/index.ts';
import { type References, through } from '../model/references.ts';
import type { Check, Field, Form, Lines, Words } from './definition.ts';
import type { FormulaPlace } from './formulas.ts';
import { type Rule, type RuleEffect, ruleName } from './rules.ts';
import type { Move } from './steps.ts';
import { wordsFormula, wordsWith } from './words.ts';

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
  /** formulas of one place: blank ones stay as they are */
  const at = (path: string, label: string) => {
    const formula = <T extends string | null>(part: FormulaPlace['part'], text: T): T | string =>
      text === null || text.trim() === '' ? text : to.formula({ path, part, label, text });
    const words = <T extends Words | null>(part: FormulaPlace['part'], w: T): T | Words => {
      const text = w === null ? null : wordsFormula(w);
      return w === null || text === null || text.trim() === '' ? w : wordsWith(w, to.formula({ path, part, label, text }));
    };
    const checks = (all: readonly Check[]): Check[] =>
      all.map((c, i) => ({ ...c, when: formula(`checks.${i}`, c.when), message: words(`checks.${i}.message`, c.message) }));
    const states = <T extends Pick<Lines, 'shown' | 'required' | 'locked'>>(of: T): T => ({
      ...of,
      shown: formula('shown', of.shown),
      required: formula('required', of.required),
      locked: formula('locked', of.locked),
    });
    return { formula, words, checks, states };
  };
  const rule = (r: Rule, number: number): Rule => {
    const { formula, words } = at(`@${r.id}`, ruleName(r, number));
    const effect =
      (branch: 'then' | 'otherwise') =>
      (e: RuleEffect, i: number): RuleEffect => {
        if (e.kind === 'set') return { ...e, formula: formula(`${branch}.${i}`, e.formula) };
        if (e.kind === 'message') return { ...e, message: words(`${branch}.${i}`, e.message) };
        if (e.kind !== 'addLine') return e;
        const values = Object.entries(e.values).map(([k, text]) => [k, formula(`${branch}.${i}.${k}`, text)]);
        return { ...e, values: Object.fromEntries(values) as Record<string, string> };
      };
    return { ...r, when: formula('when', r.when), then: r.then.map(effect('then')), otherwise: r.otherwise.map(effect('otherwise')) };
  };
  const move = (m: Move): Move => {
    const { formula } = at(moveAt(m), m.label);
    return { ...m, when: formula('when', m.when), sets: m.sets.map((s, i) => ({ ...s, formula: formula(`then.${i}`, s.formula) })) };
  };
  const field = (path: string, f: Field, table: string, group: string | null): Field => {
    const label = group === null ? f.label : `${group}: ${f.label}`;
    const { formula, words, checks, states } = at(path, label);
    return {
      ...states(f),
      column: f.column && to.column(table, f.column),
      source: f.source && sourceNamed(f.source, { ...to, formula: (part, text) => formula(part as FormulaPlace['part'], text) }),
      value: f.value && { ...f.value, formula: formula('value', f.value.formula) },
      checks: checks(f.checks),
      hint: words('hint', f.hint),
      called: words('called', f.called),
      placeholder: words('placeholder', f.placeholder),
      spreads: f.spreads.map((s, i) => ({ ...s, formula: formula(`spreads.${i}`, s.formula), when: formula(`spreads.${i}.when`, s.when) })),
    };
  };
  const all = (fields: Form['fields'], table: string, prefix: string, group: string | null): Form['fields'] =>
    Object.fromEntries(Object.entries(fields).map(([key, f]) => [key, field(`${prefix}${key}`, f, table, group)]));
  const lines = (key: string, l: Lines): Lines => ({
    ...at(key, l.label).states(l),
    table: to.table(l.table),
    link: to.column(l.table, l.link),
    order: l.order && to.column(l.table, l.order),
    fields: all(l.fields, l.table, `${key}.`, l.label),
  });
  return {
    ...form,
    table: to.table(form.table),
    parent: form.parent && to.table(form.parent),
    known: form.known && to.column(form.table, form.known),
    pages: form.pages.map((p) => ({
      ...at(`@${p.id}`, p.label).states(p),
      sections: p.sections.map((s) => ({
        ...at(`@${s.id}`, s.label).states(s),
        checks: at(`@${s.id}`, s.label).checks(s.checks),
        text: at(`@${s.id}`, s.label).words('text', s.text),
      })),
    })),
    checks: at('@', form.label).checks(form.checks),
    rules: form.rules.map(rule),
    steps: form.steps && { ...form.steps, moves: form.steps.moves.map(move) },
    fields: all(form.fields, form.table, '', null),
    lines: Object.fromEntries(Object.entries(form.lines).map(([key, l]) => [key, lines(key, l)])),
  };
}

/** Where the formulas of a move stand. */
export const moveAt = (move: Pick<Move, 'id'>): string => `@>${move.id}`;

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

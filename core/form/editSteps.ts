import { sourceSchema } from '../choices/sources/schemas.ts';
import { type Form, fieldOrder } from './definition.ts';
import { addField, changeField } from './edit.ts';
import { type Access, type Move, type Step, type Steps } from './steps.ts';
import { accessSchema, moveSchema, stepSchema } from './stepSchemas.ts';
import { quoted } from './who.ts';

/* Changes to the steps of a form and to who sees and fills what, each a function from a form to a new form. */

/** The fields that can hold the step: choices and texts that no formula fills for good. */
export const stepFields = (form: Form): readonly string[] =>
  fieldOrder(form).filter((k) => ['choice', 'text'].includes(form.fields[k]?.type ?? '') && form.fields[k]?.value?.kind !== 'calculation');

/**
 * Gives a form steps, kept in a field: one that is there, whose own choices become the steps, or a new one in the first section. A new
 * record stands at the first step.
 */
export function startSteps(form: Form, field: string | null): Form {
  const section = form.pages[0]?.sections[0]?.id ?? '';
  const made = field === null ? addField(form, section, 'Step', 'choice') : { form, key: field };
  const source = made.form.fields[made.key]?.source;
  const options = source?.kind === 'options' ? source.options : [];
  const list = options.length
    ? options.map((o, i) => stepSchema.parse({ ...o, label: o.label.slice(0, 60), ends: i === options.length - 1 }))
    : [stepSchema.parse({ value: 'draft', label: 'Draft', sign: 'pen' }), stepSchema.parse({ value: 'done', label: 'Done', sign: 'tick', tone: 'green', ends: true })]; // prettier-ignore
  const moves = list.slice(1).map((to, i) => moveSchema.parse({ id: `m${i + 1}`, label: to.label, from: [list[i]?.value], to: to.value }));
  return synced({ ...made.form, steps: { field: made.key, list, moves } }, null);
}
/** Takes the steps away; the field stays as a choice like any other. Who sees and fills what is asked no more of steps. */
export const endSteps = (form: Form): Form => ({
  ...form,
  steps: null,
  access: form.access.map((a) => ({ ...a, seen: a.seen.map(noSteps), filled: a.filled.map(noSteps) })),
});
const noSteps = <T extends { steps: string[] }>(grant: T): T => ({ ...grant, steps: [] });

/** Keeps the choices and the default of the field that holds the step like the steps; `before` are those they were like until now. */
function synced(form: Form, before: Steps | null): Form {
  const { steps } = form;
  const field = steps && form.fields[steps.field];
  if (!steps || !field) return form;
  const source =
    field.type === 'choice' && (field.source === null || field.source.kind === 'options')
      ? sourceSchema.parse({ ...field.source, kind: 'options', options: steps.list.map(({ value, label }) => ({ value, label })) })
      : field.source;
  const first = (s: Steps | null): string | null => (s?.list[0] ? quoted(s.list[0].value) : null);
  const isFirst = field.value === null || (field.value.kind === 'default' && field.value.formula.trim() === first(before));
  const value = isFirst ? { kind: 'default' as const, formula: first(steps) ?? '' } : field.value;
  return changeField(form, steps.field, { source, value });
}
function changed(form: Form, change: (steps: Steps) => Steps): Form {
  if (!form.steps) return form;
  return synced({ ...form, steps: change(form.steps) }, form.steps);
}

/** Adds a step at the end. What records hold at it is made from its label, and stays when it is called otherwise. */
export const addStep = (form: Form, label: string): Form =>
  changed(form, (s) => {
    const base = label.trim().slice(0, 56).toLowerCase();
    const taken = new Set(s.list.map((x) => x.value));
    let value = base;
    for (let n = 2; taken.has(value); n++) value = `${base} ${n}`;
    return { ...s, list: [...s.list, stepSchema.parse({ value, label: label.trim().slice(0, 60) })] };
  });
/** Changes how a step is called and looks, and whether a record may end there. */
export const changeStep = (form: Form, value: string, change: Partial<Omit<Step, 'value'>>): Form =>
  changed(form, (s) => ({ ...s, list: s.list.map((x) => (x.value === value ? { ...x, ...change } : x)) }));
/** Takes a step away, with the moves to it, and from it where they start nowhere else. The last one stays. */
export const removeStep = (form: Form, value: string): Form => {
  if ((form.steps?.list.length ?? 0) < 2) return form;
  const without = changed(form, (s) => ({
    ...s,
    list: s.list.filter((x) => x.value !== value),
    moves: s.moves
      .filter((m) => m.to !== value && !(m.from.length === 1 && m.from[0] === value))
      .map((m) => ({ ...m, from: m.from.filter((f) => f !== value) })),
  }));
  return {
    ...without,
    rules: without.rules.map((r) => ({ ...r, reaches: r.reaches.filter((x) => x !== value) })),
    access: without.access.map((a) => ({ ...a, seen: a.seen.map(withoutStep(value)), filled: a.filled.map(withoutStep(value)) })),
  };
};
/** A grant for this step alone stays, and is a problem until somebody decides: without its step it would hold at every step. */
const withoutStep =
  (value: string) =>
  <T extends { steps: string[] }>(grant: T): T =>
    grant.steps.length === 1 ? grant : { ...grant, steps: grant.steps.filter((x) => x !== value) };
/** Puts a step to a place: the first is where a new record stands. */
export const moveStep = (form: Form, value: string, to: number): Form =>
  changed(form, (s) => {
    const step = s.list.find((x) => x.value === value);
    if (!step || to < 0 || to >= s.list.length) return s;
    const others = s.list.filter((x) => x !== step);
    return { ...s, list: [...others.slice(0, to), step, ...others.slice(to)] };
  });

/** Adds a move between two steps. Gives the form and its id. */
export function addMove(form: Form, from: string, to: string, label: string): { form: Form; id: string } {
  const taken = new Set(form.steps?.moves.map((m) => m.id));
  let n = taken.size + 1;
  while (taken.has(`m${n}`)) n++;
  const move = moveSchema.parse({ id: `m${n}`, label: label.trim().slice(0, 60) || 'Move', from: [from], to });
  return { form: changed(form, (s) => ({ ...s, moves: [...s.moves, move] })), id: move.id };
}
/** Changes a move; what is not named stays. */
export const changeMove = (form: Form, id: string, change: Partial<Omit<Move, 'id'>>): Form =>
  changed(form, (s) => ({ ...s, moves: s.moves.map((m) => (m.id === id ? { ...m, ...change } : m)) }));
export const removeMove = (form: Form, id: string): Form => changed(form, (s) => ({ ...s, moves: s.moves.filter((m) => m.id !== id) }));

/** What is said of who sees and fills a place; nothing asked where nothing is said. */
export const accessAt = (form: Form, place: string): Access => form.access.find((a) => a.place === place) ?? accessSchema.parse({ place });
/** Says who sees and fills a place. Where nothing is asked any more, nothing is kept. */
export function setAccess(form: Form, place: string, change: Partial<Omit<Access, 'place'>>): Form {
  const now = { ...accessAt(form, place), ...change };
  const others = form.access.filter((a) => a.place !== place);
  if (!now.seen.length && !now.filled.length) return { ...form, access: others };
  return { ...form, access: form.access.some((a) => a.place === place) ? form.access.map((a) => (a.place === place ? now : a)) : [...others, now] }; // prettier-ignore
}

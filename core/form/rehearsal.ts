import type { z } from 'zod';
import { type Form, fieldAt } from './definition.ts';
import type { rehearsalSchema, rehearsalStepSchema, rehearsalValueSchema } from './rehearsalSchemas.ts';

/*
 * A rehearsal: what somebody does in a form, and what must come of it. Rows are named by what people know them by, never by their
 * numbers, so that it means the same in another workspace; its moment stands still, so that it means the same tomorrow.
 */

export type RehearsalStep = z.infer<typeof rehearsalStepSchema>;
export type RehearsalValue = z.infer<typeof rehearsalValueSchema>;
export type Rehearsal = z.infer<typeof rehearsalSchema>;
/** The most rehearsals of one form. */
export const MOST_REHEARSALS = 500;

/** Whether a step says what must come of the others. */
export const isExpectation = (step: RehearsalStep): step is Extract<RehearsalStep, { expect: string }> => 'expect' in step;

const written = (v: RehearsalValue): string =>
  v === null ? 'nothing' : Array.isArray(v) ? v.join(', ') || 'nothing' : typeof v === 'boolean' ? (v ? 'yes' : 'no') : String(v);

/** A step in two parts: what is said of it, and the value in it that can be another; null where there is none. */
export interface StepParts {
  readonly head: string;
  readonly value: string | null;
}

/** A step as a sentence in two parts: “choose Species:” and “Quercus robur”. Takes the form for what its fields are called. */
export function stepParts(form: Form, step: RehearsalStep): StepParts {
  const name = (field: string, at?: number): string => {
    const [group = '', inner] = field.split('.');
    const own = fieldAt(form, field)?.label ?? form.lines[field]?.label ?? field;
    return inner === undefined ? own : `${own} in line ${at ?? 1} of ${form.lines[group]?.label ?? group}`;
  };
  const said = (head: string, value: string | null = null): StepParts => ({ head, value });
  if ('do' in step)
    switch (step.do) {
      case 'set':
        return said(`${fieldAt(form, step.field)?.source ? 'choose' : 'enter'} ${name(step.field, step.line)}:`, written(step.to));
      case 'clear':
        return said(`empty ${name(step.field, step.line)}`);
      case 'take':
        return said(`use the suggestion for ${name(step.field, step.line)}`);
      case 'move':
        return said(`move it: ${form.steps?.moves.find((m) => m.id === step.move)?.label ?? step.move}`);
      case 'addLine':
        return said(`add a line to ${name(step.lines)}`);
      case 'removeLine':
        return said(`remove line ${step.line} of ${name(step.lines)}`);
    }
  switch (step.expect) {
    case 'value':
      return said(`${name(step.field, step.line)} is`, written(step.is));
    case 'offers':
      return said(`the list of ${name(step.field, step.line)} offers`, String(step.count));
    case 'offered':
      return said(`the list of ${name(step.field, step.line)} ${step.is ? 'offers' : 'does not offer'}`, step.choice);
    case 'state':
      return said(`${name(step.field, step.line)} is ${step.is ? '' : 'not '}${step.state === 'locked' ? 'read-only' : step.state}`);
    case 'lines':
      return said(`${name(step.lines)} has`, `${step.count} ${step.count === 1 ? 'line' : 'lines'}`);
    case 'says':
      return said(`at ${name(step.field, step.line)} it says:`, step.message);
    case 'saving':
      return step.refused.length ? said('saving is refused:', step.refused.join(' · ')) : said('it may be saved');
  }
}
/** A step as a sentence: “choose Species: Quercus robur”, “Genus is Quercus”. */
export function stepWords(form: Form, step: RehearsalStep): string {
  const { head, value } = stepParts(form, step);
  return value === null ? head : `${head} ${value}`;
}

import { z } from 'zod';
import { isIsoDateTime } from '../values/dates.ts';
import { type Form, fieldAt } from './definition.ts';

/*
 * A rehearsal: what somebody does in a form, and what must come of it. Rows are named by what people know them by, never by their
 * numbers, so that it means the same in another workspace; its moment stands still, so that it means the same tomorrow.
 */

const path = z.string().min(1).max(130);
/** the place of a line among its lines, from 1 */
const line = z.number().int().min(1).max(10_000).optional();
const text = z.string().max(1000);
/** A value as a file holds it: a text (of a row, what it is known by), a number, yes or no, several of them, or nothing. */
const value = z.union([text, z.number(), z.boolean(), z.null(), z.array(z.union([text, z.number()])).max(200)]);

export const rehearsalStepSchema = z.union([
  z.object({ do: z.literal('set'), field: path, line, to: value }).strict(),
  z.object({ do: z.literal('clear'), field: path, line }).strict(),
  z.object({ do: z.literal('take'), field: path, line }).strict(),
  z.object({ do: z.literal('move'), move: z.string().max(60) }).strict(),
  z.object({ do: z.literal('addLine'), lines: path }).strict(),
  z.object({ do: z.literal('removeLine'), lines: path, line: z.number().int().min(1).max(10_000) }).strict(),
  z.object({ expect: z.literal('value'), field: path, line, is: value }).strict(),
  /** how many choices a list offers; or that one is offered, or is not */
  z.object({ expect: z.literal('offers'), field: path, line, count: z.number().int().min(0) }).strict(),
  z.object({ expect: z.literal('offered'), field: path, line, choice: text, is: z.boolean() }).strict(),
  z.object({ expect: z.literal('state'), field: path, line, state: z.enum(['shown', 'required', 'locked']), is: z.boolean() }).strict(),
  z.object({ expect: z.literal('lines'), lines: path, count: z.number().int().min(0) }).strict(),
  z.object({ expect: z.literal('says'), field: path, line, message: text }).strict(),
  /** what stands against saving, a sentence each, in any order; none: it may be saved */
  z.object({ expect: z.literal('saving'), refused: z.array(text).max(100) }).strict(),
]);
export type RehearsalStep = z.infer<typeof rehearsalStepSchema>;
export type RehearsalValue = z.infer<typeof value>;

export const rehearsalSchema = z.object({
  label: z.string().trim().min(1).max(200),
  /** by the name in People; null: nobody in particular */
  as: z.string().max(200).nullable().default(null),
  /** a record by what it is known by; null: a new entry */
  record: text.nullable().default(null),
  mode: z.enum(['edit', 'view']).default('edit'),
  /** the step the record is taken to stand at */
  step: z.string().max(60).nullable().default(null),
  /** the record it is opened under */
  parent: text.nullable().default(null),
  url: z.record(z.string().max(100), text).default({}),
  /** the moment it is taken to be */
  at: z.string().refine(isIsoDateTime, 'a moment such as 2026-03-01T08:00:00'),
  steps: z.array(rehearsalStepSchema).max(500),
});
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

import { z } from 'zod';
import { isIsoDateTime } from '../values/dates.ts';
import { edit } from './entries.ts';
import { define } from './define.ts';
import { done, whole } from './values.ts';

/* Situations: how a designer tries a form (as whom, on what, when, with what typed), kept by a name to be chosen again. */

/** How many situations a designer keeps of one form. */
export const MOST_SITUATIONS = 100;

const row = z.object({ id: whole.min(1), text: z.string().max(1000) });
export const situationSchema = z.object({
  label: z.string().trim().min(1).max(200),
  /** a row of People; null: whoever tries it */
  person: whole.min(1).nullable(),
  record: row.nullable(),
  parent: whole.min(1).nullable(),
  mode: z.enum(['edit', 'view']),
  step: z.string().max(200).nullable(),
  url: z.record(z.string().max(100), z.string().max(1000)),
  at: z.string().refine(isIsoDateTime, 'a moment such as 2026-03-01T08:00:00').nullable(),
  feeds: z.enum(['answer', 'slow', 'fail']),
  edits: z.array(edit).max(500),
});
export type Situation = z.infer<typeof situationSchema>;

export const situations = {
  list: define({
    method: 'GET', path: 'forms/:key/situations', may: 'design', about: 'The situations in which one tries a form: one’s own, in the order of their names.',
    answer: z.array(z.object({ id: whole, situation: situationSchema })),
  }),
  keep: define({
    method: 'POST', path: 'forms/:key/situations', may: 'design', about: 'Keeps a situation; one of the same name gives way to it.',
    body: z.object({ situation: situationSchema }), answer: z.object({ id: whole }),
  }),
  remove: define({ method: 'DELETE', path: 'forms/:key/situations/:id', may: 'design', about: 'Removes one of one’s situations.', answer: done }),
}; // prettier-ignore

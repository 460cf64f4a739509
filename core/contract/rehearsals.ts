import { z } from 'zod';
import { MOST_REHEARSALS } from '../form/rehearsal.ts';
import { rehearsalSchema, rehearsalStepSchema } from '../form/rehearsalSchemas.ts';
import { isIsoDateTime } from '../values/dates.ts';
import { edit } from './entries.ts';
import { define } from './define.ts';
import { begun, done, whole } from './values.ts';

/* Rehearsals of forms: what is done in one, and what must come of it. */

const stepResult = z.object({ step: whole, ok: z.boolean(), found: rehearsalStepSchema.nullable(), problem: z.string().nullable() });
const ran = z.object({
  results: z.array(z.object({ id: whole, ok: z.boolean(), problem: z.string().nullable(), steps: z.array(stepResult) })),
  milliseconds: z.number(),
});
const made = z.object({ id: whole });

export const rehearsals = {
  list: define({
    method: 'GET', path: 'forms/:key/rehearsals', may: 'design', about: 'The rehearsals of a form, in their order.',
    answer: z.array(z.object({ id: whole, rehearsal: rehearsalSchema, at: z.string(), by: z.string() })),
  }),
  add: define({ method: 'POST', path: 'forms/:key/rehearsals', may: 'design', about: 'Keeps a rehearsal.', body: z.object({ rehearsal: rehearsalSchema }), answer: made }),
  change: define({ method: 'PUT', path: 'forms/:key/rehearsals/:id', may: 'design', about: 'Writes a rehearsal anew.', body: z.object({ rehearsal: rehearsalSchema }), answer: done }),
  remove: define({ method: 'DELETE', path: 'forms/:key/rehearsals/:id', may: 'design', about: 'Removes a rehearsal.', answer: done }),
  run: define({
    method: 'POST', path: 'forms/:key/rehearsals/run', may: 'design', about: 'Begins to run rehearsals, all or some, on the draft or on a version.',
    body: z.object({ ids: z.array(whole).max(MOST_REHEARSALS).optional(), version: whole.nullable().optional() }), answer: begun, result: ran,
  }),
  keep: define({
    method: 'POST', path: 'forms/:key/rehearsals/keep', may: 'design', about: 'What was tried, written as a rehearsal: what was done, and what came of it. Nothing is kept yet.',
    body: z.object({
      label: z.string().trim().min(1).max(200), edits: z.array(edit).max(500), record: whole.min(1).nullable(), parent: whole.nullable(), person: whole.min(1).nullable(),
      mode: z.enum(['edit', 'view']), step: z.string().max(200).nullable(), url: z.record(z.string().max(100), z.string().max(1000)), at: z.string().refine(isIsoDateTime, 'a moment such as 2026-03-01T08:00:00').nullable(),
    }),
    answer: rehearsalSchema,
  }),
}; // prettier-ignore

import { z } from 'zod';
import { stepSchema } from '../form/steps.ts';
import { define } from './define.ts';
import { whole } from './values.ts';

/* What needs somebody now, and what they did lately: the first screen. */

export const home = {
  read: define({
    method: 'GET', path: 'home', may: 'signedIn', about: 'Records at steps that whoever asks may move on, and what they saved lately.',
    answer: z.object({
      /** by form and step, those that have waited longest first */
      waiting: z.array(z.object({
        form: z.string(), label: z.string(), step: stepSchema, records: whole,
        /** when the one that has waited longest was changed last */
        since: z.string().nullable(),
        /** what they may be moved by */
        moves: z.array(z.string()),
      })),
      recent: z.array(z.object({ form: z.string(), formLabel: z.string(), id: whole, text: z.string(), at: z.string(), isNew: z.boolean() })),
    }),
  }),
}; // prettier-ignore

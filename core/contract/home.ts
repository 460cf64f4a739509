import { z } from 'zod';
import { stepSchema } from '../form/stepSchemas.ts';
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
      /** how many records whoever asks sees, by form */
      counts: z.record(z.string(), whole),
      /** saved lately although the form warned of something */
      warned: z.array(z.object({ form: z.string(), formLabel: z.string(), id: whole, text: z.string(), at: z.string(), said: z.string() })),
      /** for those who build: rehearsals that failed when they were run last, and feeds that failed when they were asked last */
      rehearsals: z.array(z.object({ form: z.string(), label: z.string(), failed: whole, of: whole, at: z.string() })),
      feeds: z.array(z.object({ key: z.string(), label: z.string(), said: z.string(), at: z.string() })),
      recent: z.array(z.object({ form: z.string(), formLabel: z.string(), id: whole, text: z.string(), at: z.string(), isNew: z.boolean() })),
    }),
  }),
}; // prettier-ignore

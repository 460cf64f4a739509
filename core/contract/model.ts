import { z } from 'zod';
import { feedSchema } from '../model/schemas.ts';
import { optionListSchema } from '../model/schemas.ts';
import { define } from './define.ts';
import { datum, done, key, label, revision, row, usedBy, whole } from './values.ts';

const broken = z.string().nullable();
const listAnswer = optionListSchema.extend({ revision: whole, broken, usedBy });
const feedAnswer = feedSchema.extend({ revision: whole, broken, secrets: z.array(z.string()), usedBy });
const value = z.string().min(1).max(200);
const secrets = z.record(z.string(), z.string().max(2000).nullable()).default({});
const behaviour = z.record(z.string(), z.object({ delay: whole.min(0).max(30_000), failing: whole.min(0).max(1000) }));

export const lists = {
  list: define({ method: 'GET', path: 'lists', may: 'design', about: 'All option lists with where they are used.', answer: z.array(listAnswer) }),
  make: define({
    method: 'POST', path: 'lists', may: 'design', about: 'Makes an option list, empty or from a pasted outline.',
    body: z.object({ label, outline: z.string().max(1_000_000).default('') }), answer: key,
  }),
  save: define({ method: 'PUT', path: 'lists/:key', may: 'design', about: 'Saves an option list as a whole.', body: z.object({ list: optionListSchema, revision: whole }), answer: revision }),
  remove: define({ method: 'DELETE', path: 'lists/:key', may: 'design', about: 'Deletes an option list; refused while a form offers it.', answer: done }),
  held: define({
    method: 'GET', path: 'lists/:key/held', may: 'design', about: 'How many records hold a value of the list, and where.', query: z.object({ value }),
    answer: z.array(z.object({ table: z.string(), label: z.string(), column: z.string(), columnLabel: z.string(), count: z.number() })),
  }),
  changeHeld: define({
    method: 'POST', path: 'lists/:key/held', may: 'design', about: 'Writes a changed value of the list into the records that hold the old one.',
    body: z.object({ from: value, to: value }), answer: z.object({ changed: z.number() }),
  }),
}; // prettier-ignore

export const feeds = {
  list: define({
    method: 'GET', path: 'feeds', may: 'design', about: 'All feeds with where they are used, the hosts that may be asked, and the stand-ins. Never a secret.',
    answer: z.object({ feeds: z.array(feedAnswer), hosts: z.array(z.string()), standIns: behaviour }),
  }),
  make: define({ method: 'POST', path: 'feeds', may: 'design', about: 'Makes a feed that asks nothing yet.', body: z.object({ label }), answer: key }),
  save: define({
    method: 'PUT', path: 'feeds/:key', may: 'design', about: 'Saves a feed. Secrets come in and never go out; those not named stay as they are.',
    body: z.object({ feed: feedSchema, revision: whole, secrets }), answer: revision,
  }),
  remove: define({ method: 'DELETE', path: 'feeds/:key', may: 'design', about: 'Deletes a feed; refused while a form asks it.', answer: done }),
  attempt: define({
    method: 'POST', path: 'feeds/try', may: 'design', about: 'Asks a feed as it stands on the screen, saved or not; gives the raw answer and what is made of it.',
    body: z.object({ feed: feedSchema, params: z.record(z.string(), datum), secrets }),
    answer: z.object({
      ok: z.boolean(), message: z.string().optional(), status: z.number().optional(), body: z.string().nullable().optional(), items: z.array(row).optional(),
      milliseconds: z.number().optional(), tries: z.number().optional(),
    }),
  }),
  hosts: define({
    method: 'PUT', path: 'feeds/hosts', may: ['administrator'], about: 'Says which hosts feeds may ask.',
    body: z.object({ hosts: z.array(z.string().max(200)).max(200) }), answer: z.object({ hosts: z.array(z.string()) }),
  }),
  standIns: define({
    method: 'PUT', path: 'feeds/standins', may: 'design', about: 'Makes a stand-in slow or failing, to see what a form does then.',
    body: z.object({ name: z.string(), delay: whole.min(0).max(30_000), failing: whole.min(0).max(1000) }), answer: behaviour,
  }),
}; // prettier-ignore

import { z } from 'zod';
import { ROLES, define } from './define.ts';
import { whole } from './values.ts';

const account = z.object({
  id: whole,
  email: z.string(),
  roles: z.array(z.enum(ROLES)),
  person: whole,
  name: z.string(),
  team: z.string().nullable(),
  demo: z.boolean(),
});
export type SessionAccount = Readonly<z.output<typeof account>>;

export const session = {
  read: define({
    method: 'GET', path: 'session', may: 'anybody', about: 'Who is signed in, and whom the demo offers to sign in as.',
    answer: z.object({ account: account.nullable(), demo: z.array(account.pick({ id: true, name: true, email: true, roles: true })) }),
  }),
  begin: define({
    method: 'POST', path: 'session', may: 'anybody', about: 'Signs in, with e-mail and password or as one of the demo’s people.', maxBytes: 10_000,
    body: z.union([z.object({ email: z.string().max(200), password: z.string().max(200) }), z.object({ demo: whole })]),
    answer: z.object({ account }),
  }),
  end: define({ method: 'DELETE', path: 'session', may: 'anybody', about: 'Signs out.', answer: z.object({ account: z.null() }) }),
}; // prettier-ignore

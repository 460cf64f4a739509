import { z } from 'zod';
import { rightsListSchema, rightsSchema } from '../form/peopleSchemas.ts';
import { ROLES, define } from './define.ts';
import { done, whole } from './values.ts';

/* People, their accounts and what they may: kept by administrators. Links are told once, to whoever asked for them. */

const roles = z.array(z.enum(ROLES)).min(1, 'Choose at least one role.').max(ROLES.length);
const email = z.string().trim().toLowerCase().max(200).regex(/^[^\s@]+@[^\s@]+$/, 'This is no e-mail address.'); // prettier-ignore
const name = z.string().trim().min(1, 'A name is needed.').max(200);
const team = z.string().trim().max(200).nullable().transform((t) => t || null); // prettier-ignore
const password = z.string().min(10, 'At least 10 characters.').max(200);
const account = z.object({
  id: whole,
  person: whole,
  name: z.string(),
  email: z.string(),
  team: z.string().nullable(),
  roles: z.array(z.enum(ROLES)),
  active: z.boolean(),
  demo: z.boolean(),
  /** whether a password was set: until then only the one-time link lets in */
  hasPassword: z.boolean(),
  /** until when a one-time link is open, in milliseconds since 1970 */
  linkUntil: z.number().nullable(),
});
/** A one-time link: what stands behind the address of the server. */
const link = z.object({ path: z.string(), until: z.number() });
const token = z.object({
  id: whole,
  account: whole,
  name: z.string(),
  roles: z.array(z.enum(ROLES)),
  rights: rightsListSchema,
  madeAt: z.string(),
  madeBy: z.string().nullable(),
  usedAt: z.string().nullable(),
});
export type AccountLine = z.output<typeof account>;
export type TokenLine = z.output<typeof token>;

/** How a workspace is called, and how it counts and writes days. */
export const workspaceSchema = z.object({
  name: z.string().trim().min(1, 'The workspace needs a name.').max(120).default('Brisk Acorn'),
  /** the zone in which it is today, by its name in the IANA database; null: that of the server */
  zone: z.string().max(60).nullable().default(null),
  dates: z.enum(['dayFirst', 'monthFirst', 'iso']).default('dayFirst'),
  grouping: z.enum(['comma', 'space', 'apostrophe', 'none']).default('comma'),
  /** the days that are worked, from Monday (1) to Sunday (7) */
  workingDays: z.array(z.number().int().min(1).max(7)).min(1, 'At least one day must be worked.').max(7).default([1, 2, 3, 4, 5]),
  /** where days off stand: a date column of a table */
  holidays: z
    .object({ table: z.string().max(60), column: z.string().max(60) })
    .nullable()
    .default(null),
});
export type WorkspaceSettings = z.output<typeof workspaceSchema>;

const ADMIN = ['administrator'] as const;
export const people = {
  list: define({
    method: 'GET',
    path: 'accounts',
    may: ADMIN,
    about: 'All accounts of people, with their roles and whether they may sign in.',
    answer: z.array(account),
  }),
  add: define({
    method: 'POST',
    path: 'accounts',
    may: ADMIN,
    about: 'Adds an account for a person of People, or for a new one, and a one-time link to set its password with.',
    body: z.object({ person: whole.nullable(), name, email, team, roles }),
    answer: z.object({ account, link }),
  }),
  change: define({
    method: 'PUT',
    path: 'accounts/:id',
    may: ADMIN,
    about: 'Changes the roles, the team or the address of an account, or puts it out of use; its sessions end.',
    body: z.object({ roles, team, email, active: z.boolean() }),
    answer: account,
  }),
  link: define({
    method: 'POST',
    path: 'accounts/:id/link',
    may: ADMIN,
    about: 'A new one-time link to set a password with; the one before is void.',
    answer: link,
  }),
  remove: define({
    method: 'DELETE',
    path: 'accounts/:id',
    may: ADMIN,
    about: 'Removes an account that has done nothing yet; its person stays.',
    answer: done,
  }),
};
export const welcome = {
  read: define({
    method: 'GET',
    path: 'welcome/:token',
    may: 'anybody',
    about: 'Whom a one-time link is for; for the first administrator of a workspace, nobody yet.',
    answer: z.object({ name: z.string().nullable(), email: z.string().nullable(), workspace: z.string() }),
  }),
  use: define({
    method: 'POST',
    path: 'welcome/:token',
    may: 'anybody',
    about: 'Sets a password by a one-time link and signs in; the first administrator says who they are and what the workspace is called.',
    maxBytes: 10_000,
    body: z.object({ password, first: z.object({ name, email, workspace: workspaceSchema.shape.name }).nullable() }),
    answer: done,
  }),
};
export const workspace = {
  read: define({
    method: 'GET',
    path: 'workspace',
    may: 'signedIn',
    forPrograms: true,
    about: 'The settings of the workspace.',
    answer: workspaceSchema.extend({ zones: z.array(z.string()) }),
  }),
  change: define({
    method: 'PUT',
    path: 'workspace',
    may: ADMIN,
    about: 'Changes the settings of the workspace.',
    body: workspaceSchema,
    answer: workspaceSchema,
  }),
};
export const programs = {
  list: define({ method: 'GET', path: 'programs', may: ADMIN, about: 'The tokens that other programs ask with.', answer: z.array(token) }),
  add: define({
    method: 'POST',
    path: 'programs',
    may: ADMIN,
    about: 'Makes a token with rights of its own. What programs send goes through the same engine and checks. The token is told once.',
    body: z.object({ name, roles, rights: rightsListSchema.min(1, 'Choose at least one form.') }),
    answer: z.object({ program: token, token: z.string() }),
  }),
  remove: define({ method: 'DELETE', path: 'programs/:id', may: ADMIN, about: 'Ends a token at once.', answer: done }),
};
export const rights = {
  read: define({ method: 'GET', path: 'forms/:key/rights', may: 'design', about: 'Who may enter, see, change, delete and export records of a form.', answer: rightsSchema }),
  change: define({ method: 'PUT', path: 'forms/:key/rights', may: 'design', about: 'Says who may; it holds at once.', body: rightsSchema, answer: rightsSchema }),
}; // prettier-ignore

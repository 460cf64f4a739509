import { z } from 'zod';
import { ROLES } from '../values/roles.ts';
import { RIGHTS } from './rights.ts';
import { EVERYBODY } from './who.ts';

export const whoSchema = z.object({
  roles: z.array(z.enum(ROLES)).max(ROLES.length).default([]),
  /** as they stand in the column team of People */
  teams: z.array(z.string().trim().min(1).max(200)).max(50).default([]),
});

const who = whoSchema.default(EVERYBODY);
/** Nobody named at a right is everybody signed in. */
export const rightsSchema = z.object({
  /** make new records */
  enter: who,
  /** read records, in lists and one by one */
  see: who,
  /** change records that are there */
  edit: who,
  delete: whoSchema.default({ roles: ['designer', 'administrator'], teams: [] }),
  export: whoSchema.default({ roles: ['designer', 'administrator'], teams: [] }),
});
/** What a program may: rights with some forms. */
export const formScopeSchema = z.object({ form: z.string().max(60), rights: z.array(z.enum(RIGHTS)).min(1) });
export const rightsListSchema = z.array(formScopeSchema).max(200);

export const ownersSchema = z.object({
  /** fields that hold people, or the name of a team; one that fits is enough. Where all are empty, the record is everybody’s */
  fields: z.array(z.string().min(1).max(60)).min(1).max(6),
  /** whoever entered it sees it too */
  creator: z.boolean().default(true),
  /** who sees every record beside those who build; nobody, where nobody is named */
  also: whoSchema.default(EVERYBODY),
});

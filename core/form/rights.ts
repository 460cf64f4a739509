import { z } from 'zod';
import { type Who, EVERYBODY, isOneOf, whoSchema } from './who.ts';

/*
 * Who may do what with a form. Kept beside the form and not in its versions: it holds at once, and is nothing that a record follows from.
 */
export const RIGHTS = ['enter', 'see', 'edit', 'delete', 'export'] as const;
export type Right = (typeof RIGHTS)[number];
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
export type FormRights = z.infer<typeof rightsSchema>;

/** What a program may: rights with some forms. */
export const formScopeSchema = z.object({ form: z.string().max(60), rights: z.array(z.enum(RIGHTS)).min(1) });
export const rightsListSchema = z.array(formScopeSchema).max(200);
export type FormScope = z.infer<typeof formScopeSchema>;

interface Person {
  readonly roles: readonly string[];
  readonly team: string | null;
}
/** Whether somebody has a right. Who may change or delete records must be able to read them; the same is asked of both. */
export function hasRight(rights: FormRights, right: Right, person: Person): boolean {
  const has = (r: Right): boolean => isOneOf(rights[r] as Who, person.roles, person.team);
  return has(right) && (right === 'enter' || right === 'see' || has('see'));
}

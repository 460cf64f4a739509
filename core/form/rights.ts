import type { z } from 'zod';
import { type Who, isOneOf } from './who.ts';
import type { formScopeSchema, rightsSchema } from './peopleSchemas.ts';

/*
 * Who may do what with a form. Kept beside the form and not in its versions: it holds at once, and is nothing that a record follows from.
 */
export const RIGHTS = ['enter', 'see', 'edit', 'delete', 'export'] as const;
export type Right = (typeof RIGHTS)[number];
export type FormRights = z.infer<typeof rightsSchema>;
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

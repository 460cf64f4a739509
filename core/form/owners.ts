import type { z } from 'zod';
import { sourceRows } from '../choices/sources/index.ts';
import { PEOPLE } from '../values/kinds/index.ts';
import type { Field } from './definition.ts';
import type { ownersSchema } from './peopleSchemas.ts';

/*
 * Whom a record belongs to: people and teams that stand in fields of the form. So a default, a prefill, a rule or a hand says whose it is,
 * like any value. Others do not see it: not in lists, look-ups, related rows, history, files, nor by formulas.
 */

/** Whether a field can say whose a record is: it holds people, or the name of a team. Takes the field; gives yes or no. */
export const canOwn = ({ type, source }: Pick<Field, 'type' | 'source'>): boolean =>
  ['person', 'choice', 'text'].includes(type) || ((type === 'link' || type === 'links') && sourceRows(source) === PEOPLE);
export type Owners = z.infer<typeof ownersSchema>;

import { z } from 'zod';
import { sourceRows } from '../choices/sources/index.ts';
import { PEOPLE } from '../values/kinds/index.ts';
import type { Field } from './definition.ts';
import { EVERYBODY, whoSchema } from './who.ts';

/*
 * Whom a record belongs to: people and teams that stand in fields of the form. So a default, a prefill, a rule or a hand says whose it is,
 * like any value. Others do not see it: not in lists, look-ups, related rows, history, files, nor by formulas.
 */
export const ownersSchema = z.object({
  /** fields that hold people, or the name of a team; one that fits is enough. Where all are empty, the record is everybody’s */
  fields: z.array(z.string().min(1).max(60)).min(1).max(6),
  /** whoever entered it sees it too */
  creator: z.boolean().default(true),
  /** who sees every record beside those who build; nobody, where nobody is named */
  also: whoSchema.default(EVERYBODY),
});
/** Whether a field can say whose a record is: it holds people, or the name of a team. Takes the field; gives yes or no. */
export const canOwn = ({ type, source }: Pick<Field, 'type' | 'source'>): boolean =>
  ['person', 'choice', 'text'].includes(type) || ((type === 'link' || type === 'links') && sourceRows(source) === PEOPLE);
export type Owners = z.infer<typeof ownersSchema>;

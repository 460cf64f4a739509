import { z } from 'zod';
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
export type Owners = z.infer<typeof ownersSchema>;

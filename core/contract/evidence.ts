import { z } from 'zod';
import { PROPOSAL_KINDS } from '../evidence/proposal.ts';
import { OUTCOMES } from '../evidence/fills.ts';
import { FILL_NAMES } from '../form/fills/index.ts';
import { ORIGIN_KINDS } from '../model/origin.ts';
import { columnSchema } from '../model/schemas.ts';
import { define } from './define.ts';
import { begun, datum, done, linked, whole } from './values.ts';

/* What the records of a form say about it. It is about fields, never about people. */

const outcomes = z.object(Object.fromEntries(OUTCOMES.map((o) => [o, whole])) as Record<(typeof OUTCOMES)[number], typeof whole>);
const fieldUse = z.object({
  /** its path; of a field of lines counted over lines */
  field: z.string(),
  records: whole,
  label: z.string(),
  column: columnSchema,
  fill: z.enum(FILL_NAMES).nullable(),
  by: z.enum(ORIGIN_KINDS).nullable(),
  ever: z.boolean(),
  counts: outcomes,
  later: whole,
  over: z.array(z.object({ value: datum, days: z.number().nullable(), count: whole })),
  /** where it is mostly put over: what is there, by its words and its column */
  where: z.object({ label: z.string(), column: columnSchema, value: datum, over: whole, of: whole }).nullable(),
  spans: z.array(outcomes),
  keys: z.object({ pressed: z.number(), saved: z.number() }),
  unchosen: z.array(datum),
});
const texts = z.array(z.object({ text: z.string(), count: whole }));
const listUse = z.object({ field: z.string(), label: z.string(), chosen: whole, offered: whole.nullable(), place: whole, first: whole, unsearched: whole, searched: texts, nothing: whole, sought: texts }); // prettier-ignore
export const fillsUse = z.object({
  records: whole,
  unknown: whole,
  spans: z.array(z.string()),
  versions: z.array(z.object({ version: whole, from: z.string() })),
  fields: z.array(fieldUse),
  /** older saves than were looked through */
  older: z.boolean(),
  /** how it was entered, of the version asked for or all, whenever that was: nothing is kept of who or when */
  entered: z.object({ times: z.array(z.object({ version: whole, entries: whole, seconds: z.number() })), lists: z.array(listUse) }),
  linked,
});

const proposal = z.object({
  kind: z.enum(PROPOSAL_KINDS),
  field: z.string(),
  formula: z.string(),
  message: z.string().nullable(),
  fits: whole,
  of: whole,
  today: whole.nullable(),
  exceptions: z.array(whole),
});

export const evidence = {
  fills: define({
    method: 'POST', path: 'forms/:key/evidence/fills', may: 'design', about: 'Begins to count how well the fills of a form work: how often what they gave was kept, put over, emptied, over the records saved by it.',
    body: z.object({
      since: z.iso.date().nullable().default(null),
      version: whole.nullable().default(null),
      /** only records that stand at this step now */
      step: z.string().max(200).nullable().default(null),
    }),
    answer: begun, result: fillsUse,
  }),
  kept: define({
    method: 'GET', path: 'forms/:key/evidence/kept', may: 'design', about: 'In how many of the records saved lately what a field was given was kept, by field: for the mark beside it.',
    answer: z.record(z.string(), z.object({ kept: whole, of: whole })),
  }),
  proposals: define({
    method: 'POST', path: 'forms/:key/evidence/proposals', may: 'design', about: 'Begins to look through the records of a form, and the rows they link to, for what the form could do by itself.',
    body: z.object({}), answer: begun,
    result: z.object({ records: whole, proposals: z.array(proposal.extend({ refused: z.boolean() })), /** more records than were looked through */ older: z.boolean() }),
  }),
  refuse: define({
    method: 'PUT', path: 'forms/:key/evidence/refused', may: 'design', about: 'Refuses a proposal for good, or no longer: refused ones are not shown again.',
    body: z.object({ proposal: z.string().min(1).max(5000), refused: z.boolean() }), answer: done,
  }),
}; // prettier-ignore

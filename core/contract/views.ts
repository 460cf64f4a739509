import { z } from 'zod';
import { MOST_VIEW_TEXT, PLAIN_VIEW, type View } from '../choices/views.ts';
import { viewSchema } from '../choices/viewSchemas.ts';
import { isIsoDate } from '../values/dates.ts';
import { define } from './define.ts';
import { datum, done, label, linked, recordRow, table, whole } from './values.ts';

/* How the records of a form are looked at: views that are kept, and the days of a calendar. */

/** How many views one person keeps of a form. */
export const MOST_VIEWS = 100;
/** A view as it stands in an address: JSON text. */
export const viewText = z
  .string()
  .max(MOST_VIEW_TEXT, `a view of at most ${MOST_VIEW_TEXT} characters`)
  .optional()
  .transform((text, context): View => {
    if (text === undefined || text === '') return PLAIN_VIEW;
    try {
      const read = viewSchema.safeParse(JSON.parse(text));
      if (read.success) return read.data;
      context.addIssue({
        code: 'custom',
        message: `a view, but ${read.error.issues[0]?.path.join('.')}: ${read.error.issues[0]?.message}`,
      });
    } catch {
      context.addIssue({ code: 'custom', message: 'a view as JSON' });
    }
    return z.NEVER;
  });
/** What is told of all that a view shows. */
export const viewWhole = z.object({
  /** one for each sum of the view */
  sums: z.array(datum),
  /** the groups in their order; null where there are too many to be told apart */
  groups: z.array(z.object({ value: datum, count: whole, sums: z.array(datum) })).nullable(),
  /** how many records have each colour of the view */
  byColour: z.array(whole),
});
export const viewRow = recordRow.extend({
  /** the place of its colour in the view */
  colour: whole.nullable(),
});
const keptBody = z.object({
  label,
  view: viewSchema,
  /** whether others see it */
  shared: z.boolean(),
  /** whether the records are shown so when nothing else is asked for: to oneself, or, of a shared one, to all */
  usual: z.boolean(),
});
const day = z.string().refine(isIsoDate, 'a day such as 2026-03-01');

export const views = {
  list: define({
    method: 'GET', path: 'forms/:key/views', may: 'signedIn', right: ['see'], about: 'The views of a form’s records: one’s own and those that are shared, with what a view may name.',
    answer: z.object({
      form: z.object({ key: z.string(), label: z.string(), table: z.string(), parent: z.string().nullable(), /** the column that holds their steps, where one sees it */ step: z.string().nullable() }),
      version: whole,
      /** the records with the columns that one sees, and the tables these lead to */
      tables: z.array(table),
      views: z.array(keptBody.extend({ id: whole, mine: z.boolean(), mayChange: z.boolean(), by: z.string() })),
    }),
  }),
  keep: define({ method: 'POST', path: 'forms/:key/views', may: 'signedIn', right: ['see'], about: 'Keeps a view; one’s own of the same name gives way to it.', body: keptBody, answer: z.object({ id: whole }) }),
  change: define({ method: 'PUT', path: 'forms/:key/views/:id', may: 'signedIn', right: ['see'], about: 'Changes a view: one’s own; those who build, also a shared one.', body: keptBody, answer: done }),
  remove: define({ method: 'DELETE', path: 'forms/:key/views/:id', may: 'signedIn', right: ['see'], about: 'Removes a view: one’s own; those who build, also a shared one.', answer: done }),
  values: define({
    method: 'GET', path: 'forms/:key/values', may: 'signedIn', right: ['see'], about: 'What stands in a column that a view may name, each text once: what one chooses a fixed value from.',
    query: z.object({ table: z.string().max(60), column: z.string().max(60), search: z.string().max(200).default(''), limit: z.coerce.number().int().min(1).max(200).default(60) }),
    answer: z.object({ values: z.array(z.string()), more: z.boolean() }),
  }),
  days: define({
    method: 'GET', path: 'forms/:key/days', may: 'signedIn', right: ['see'], about: 'The records of a view that stand on the days of a span, by the column its calendar goes by, with how many stand on each day.',
    query: z.object({ view: viewText, search: z.string().max(200).default(''), from: day, before: day }),
    answer: z.object({
      days: z.array(z.object({ day: z.string(), colour: whole.nullable(), count: whole })),
      rows: z.array(viewRow), more: z.boolean(), linked,
    }),
  }),
}; // prettier-ignore

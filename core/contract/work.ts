import { z } from 'zod';
import { OVERS } from '../engine/backfill.ts';
import { FINDING_KINDS } from '../engine/impact.ts';
import { FILL_NAMES } from '../form/fills/index.ts';
import { COLUMN_TYPES } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import { define } from './define.ts';
import { begun, count, datum, done, linked, origin, row, whole } from './values.ts';

/* Long work: backfills and imports, the jobs that do it, and files. */

const RECORD_STATES = ['proposed', 'refused', 'written', 'skipped', 'putBack'] as const;
const backfillView = z.object({
  id: whole,
  version: whole,
  asked: z.object({ fields: z.array(z.string()), over: z.enum(OVERS), subset: z.string().nullable(), impact: whole.nullable().optional() }),
  state: z.enum(['previewed', 'applied', 'undone']),
  looked: z.number(),
  form: z.string(),
  by: z.string(),
  at: z.string(),
  appliedAt: z.string().nullable(),
  undoneAt: z.string().nullable(),
  records: z.record(z.enum(RECORD_STATES), z.number()),
  /** false when the form was published again since: what it proposes is not what the form gives now */
  current: z.boolean(),
});
const given = z.object({
  field: z.string(),
  /** the line's place among its lines, from 1 */
  place: z.number().nullable(),
  from: datum,
  to: datum,
  /** asked for, or what follows from what was asked for */
  asked: z.boolean(),
  line: whole.nullable(),
  origin,
  was: origin.nullable(),
});

/** What a field's values are written with: the lines it is in by their label, its options by what is stored. */
const shownField = z.object({
  label: z.string(),
  lines: z.string().nullable(),
  column: columnSchema.nullable(),
  options: z.record(z.string(), z.string()),
});
export const backfills = {
  offer: define({
    method: 'GET', path: 'forms/:key/backfills', may: 'design', about: 'What the form can give to records that exist, and which backfills there have been.',
    answer: z.object({
      form: z.string(), version: whole, records: z.number(),
      fields: z.array(z.object({ field: z.string(), label: z.string(), lines: z.string().nullable(), kind: z.enum(FILL_NAMES), formula: z.string() })),
      subsets: z.array(z.object({ key: z.string(), label: z.string() })), earlier: z.array(backfillView),
    }),
  }),
  preview: define({
    method: 'POST', path: 'forms/:key/backfills', may: 'design', about: 'Begins to compute what existing records would get. Nothing of them is changed.',
    body: z.object({ fields: z.array(z.string().max(130)).max(500), over: z.enum(OVERS).default('empty'), subset: z.string().max(60).nullable().default(null), /** only the records that a look at a draft found to change */ impact: whole.nullable().optional() }),
    answer: begun, result: backfillView,
  }),
  page: define({
    method: 'GET', path: 'forms/:key/backfills/:id', may: 'design', about: 'A page of what a backfill proposes or did.',
    query: z.object({ show: z.enum(['changes', 'refused', 'skipped']).default('changes'), offset: count.default(0), limit: count.min(1).max(500).default(100) }),
    answer: z.object({
      /** each by what people know its record by, with what it is given */
      rows: z.array(z.object({ row: whole, text: z.string(), state: z.enum(RECORD_STATES), given: z.array(given), problem: z.string().nullable() })), total: z.number(),
      /** the fields that have changed in these rows */
      fields: z.record(z.string(), shownField), linked,
    }),
  }),
  apply: define({ method: 'POST', path: 'forms/:key/backfills/:id/apply', may: 'design', about: 'Begins to write what a preview proposed.', body: z.object({}), answer: begun, result: backfillView }),
  undo: define({ method: 'POST', path: 'forms/:key/backfills/:id/undo', may: 'design', about: 'Begins to put back what a backfill wrote.', body: z.object({}), answer: begun, result: backfillView }),
  forget: define({ method: 'DELETE', path: 'forms/:key/backfills/:id', may: 'design', about: 'Forgets a preview that was not applied.', answer: done }),
}; // prettier-ignore

const IMPACT_KINDS = [...FINDING_KINDS, 'seen', 'unseen'] as const;
const impactView = z.object({
  id: whole, form: z.string(), version: whole.nullable(), by: z.string(), at: z.string(), looked: z.number(), milliseconds: z.number(),
  /** the fields whose fills may come out otherwise */
  fields: z.array(z.string()),
  /** false when the draft was changed, or a version published, since */
  current: z.boolean(),
  counts: z.array(z.object({ field: z.string(), kind: z.enum(IMPACT_KINDS), records: z.number(), values: z.number() })),
  /** records that a backfill would change */
  changing: z.number(),
}); // prettier-ignore
export const impacts = {
  last: define({ method: 'GET', path: 'forms/:key/impacts', may: 'design', about: 'What the draft was found to do to the records that exist, counted by field; null when nobody has looked.', answer: impactView.nullable() }),
  find: define({ method: 'POST', path: 'forms/:key/impacts', may: 'design', about: 'Begins to find what publishing the draft does to the records that exist. Nothing of them is changed.', body: z.object({}), answer: begun, result: impactView }),
  page: define({
    method: 'GET', path: 'forms/:key/impacts/:id', may: 'design', about: 'A page of what was found, by field and kind.',
    query: z.object({ field: z.string().max(130).optional(), kind: z.enum(IMPACT_KINDS).optional(), offset: count.default(0), limit: count.min(1).max(500).default(100) }),
    answer: z.object({
      rows: z.array(z.object({ id: whole, row: whole, text: z.string(), field: z.string(), kind: z.enum(IMPACT_KINDS), line: whole.nullable(), place: z.number().nullable(), from: datum, published: datum, to: datum, message: z.string().nullable() })),
      fields: z.record(z.string(), shownField), linked,
    }),
  }),
  export: define({ method: 'GET', path: 'forms/:key/impacts/:id/export', may: 'design', about: 'What was found, as CSV.' }),
}; // prettier-ignore

const repair = z.union([z.object({ to: whole }), z.object({ empty: z.literal(true) }), z.object({ add: z.literal(true) })]);
const importedColumn = z.object({
  key: z.string(),
  label: z.string().min(1).max(120),
  type: z.enum(COLUMN_TYPES),
  /** the table a link leads to; `@self` is the one that is made */
  target: z.string().nullable(),
  /** the columns of the target that say which row is meant; none: what its rows are known by */
  by: z.array(z.string().max(60)).max(2).default([]),
});
const importPlan = z.object({
  key: z.string(),
  label: z.string().max(120),
  shown: z.string().nullable(),
  /** by place in the file; null leaves the column out */
  columns: z.array(importedColumn.nullable()),
  /** by column key, then by text of the file */
  repairs: z.record(z.string(), z.record(z.string(), repair)),
  /** an existing table to bring the rows into; null makes a new one */
  into: z.string().nullable().default(null),
  /** of an existing table: the column whose equal value means the same row; null adds every line */
  match: z.string().nullable().default(null),
});
const importBody = z.object({ plan: importPlan, upload: z.string() });
const guessed = importedColumn.extend({
  header: z.string(),
  label: z.string(),
  examples: z.array(z.string()),
  filled: z.number(),
  distinct: z.number(),
  /** of an existing table: whether the file's column was recognised as one of its columns */
  known: z.boolean(),
  /** how its texts name rows of the target, the best first, each with the share of the texts that do */
  ways: z.array(z.object({ by: z.array(z.string()).readonly(), share: z.number() })),
});
const near = z.array(z.object({ id: whole, text: z.string() }));
const fileName = z.object({ name: z.string().min(1).max(300) });

export const imports = {
  upload: define({ method: 'POST', path: 'uploads', may: 'design', about: 'Takes in a file to be imported, as the body of the request, straight to disk.', query: fileName, answer: z.object({ id: z.string(), name: z.string(), size: z.number() }), takesFile: true }),
  guess: define({
    method: 'POST', path: 'imports/guess', may: 'design', about: 'Begins to look at a file that was sent: columns with guessed types and links, or what a data package holds. Writes nothing.',
    body: z.object({ upload: z.string(), into: z.string().nullable().default(null) }), answer: begun,
    result: z.union([
      z.object({ package: z.object({ tables: z.array(z.object({ key: z.string(), label: z.string(), columns: z.number(), links: z.array(z.string()) })) }) }),
      z.object({ label: z.string(), key: z.string(), shown: z.string().nullable(), columns: z.array(guessed), rows: z.number() }),
    ]),
  }),
  check: define({
    method: 'POST', path: 'imports/check', may: 'design', about: 'Begins to say what does not convert and which links match no row. Writes nothing.', body: importBody, answer: begun,
    /** of values that do not convert at most 200, with the whole count; texts that name no row by column */
    result: z.object({
      rows: z.number(), bad: z.array(z.object({ line: z.number(), column: z.string(), text: z.string(), message: z.string() })), badCount: z.number(),
      unmatched: z.record(z.string(), z.array(z.object({ value: z.string(), count: z.number(), firstLine: z.number(), near, sure: z.boolean() }))),
    }),
  }),
  run: define({
    method: 'POST', path: 'imports', may: 'design', about: 'Begins to import a file into a new table or an existing one: all of it or nothing.', body: importBody, answer: begun,
    result: z.object({ table: z.string(), rows: z.number(), added: z.number(), changed: z.number() }),
  }),
  package: define({
    method: 'POST', path: 'imports/package', may: 'design', about: 'Begins to import a data package: each of its resources a new table, linked by its foreign keys; all of them or none.',
    body: z.object({ upload: z.string() }), answer: begun, result: z.object({ tables: z.array(z.object({ key: z.string(), label: z.string(), rows: z.number() })) }),
  }),
}; // prettier-ignore

export const jobs = {
  read: define({
    method: 'GET', path: 'jobs/:id', may: 'signedIn', about: 'How far long work is, and what came of it.',
    answer: z.object({
      id: z.string(), kind: z.string(), state: z.enum(['running', 'done', 'failed', 'cancelled']),
      /** from 0 to 1, and what it is doing now, in words */
      progress: z.number(), doing: z.string(), result: z.unknown(),
      error: z.object({ code: z.string(), message: z.string(), details: z.record(z.string(), z.unknown()) }).nullable(),
    }),
  }),
  cancel: define({ method: 'DELETE', path: 'jobs/:id', may: 'signedIn', about: 'Cancels long work; it stops at its next step and leaves nothing behind.', answer: done }),
}; // prettier-ignore

export const files = {
  store: define({
    method: 'POST', path: 'files', may: 'signedIn', forPrograms: true, about: 'Takes a file in, as the body of the request; gives its number, name, kind by content, and size.', query: fileName,
    answer: row, takesFile: true,
  }),
  read: define({ method: 'GET', path: 'files/:id', may: 'signedIn', forPrograms: true, about: 'A stored file, always as an attachment; only for those who see a record that holds it.' }),
  preview: define({ method: 'GET', path: 'files/:id/preview', may: 'signedIn', forPrograms: true, about: 'A stored picture or PDF to be looked at in the browser; only for those who see a record that holds it.' }),
}; // prettier-ignore

import { z } from 'zod';
import { formSchema } from '../form/schemas.ts';
import { feedSchema } from '../model/schemas.ts';
import { optionListSchema } from '../model/schemas.ts';
import { ORIGIN_KINDS } from '../model/origin.ts';
import type { Edit } from '../engine/state.ts';
import { type Answer, type Answered, LONGEST_SEARCH, MAX_WANTS, type Want } from '../engine/wants.ts';
import { columnSchema } from '../model/schemas.ts';
import { ROLES, define } from './define.ts';
import { datum, done, gridQuery, linked, linkingRows, origin, row, table, values, whole } from './values.ts';
import { viewRow, viewText, viewWhole } from './views.ts';

/* Entering records: opening, what an open entry wants, saving, and what stands around a record. */

const field = z.string().max(125);
const inLine = whole.optional();
export const edit: z.ZodType<Edit, Edit> = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('set'), field, line: inLine, value: datum, by: z.enum(['url', 'carried']).optional() }),
  z.object({ kind: z.literal('clear'), field, line: inLine }),
  z.object({ kind: z.literal('takeSuggestion'), field, line: inLine }),
  z.object({ kind: z.literal('move'), field, move: z.string().max(60), line: z.undefined().optional() }),
  z.object({ kind: z.literal('unmove'), field, line: z.undefined().optional() }),
  z.object({ kind: z.literal('addLine'), field, line: whole, at: whole.min(0).optional() }),
  z.object({ kind: z.literal('removeLine'), field, line: whole }),
  z.object({ kind: z.literal('moveLine'), field, line: whole, to: whole.min(0) }),
]);
const asked = { field, params: z.array(datum).max(100), open: z.array(whole).max(100) };
const want: z.ZodType<Want, Want> = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('table'), table: field }),
  z.object({ kind: z.literal('row'), table: field, id: whole }),
  z.object({ kind: z.literal('feed'), feed: field, params: z.record(z.string().max(60), datum) }),
  z.object({ kind: z.literal('count'), ...asked }),
  z.object({ kind: z.literal('offered'), value: z.union([whole, z.string().max(1000)]), ...asked }),
  z.object({ kind: z.literal('page'), search: z.string().max(LONGEST_SEARCH), offset: whole.min(0), limit: whole.min(1), ...asked }),
  z.object({ kind: z.literal('funnel'), ...asked }),
  z.object({ kind: z.literal('usual'), ...asked }),
  z.object({ kind: z.literal('picked'), pick: whole.min(0), params: z.array(datum).max(100) }),
  z.object({ kind: z.literal('last'), column: field.nullable(), value: datum }),
  z.object({ kind: z.literal('series'), series: z.string().max(200) }),
]);
const rows = z.array(row);
const answer: z.ZodType<Answer, Answer> = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('table'), rows }),
  z.object({ kind: z.literal('row'), row: row.nullable() }),
  z.object({ kind: z.literal('count'), total: z.number(), capped: z.boolean(), only: z.union([z.number(), z.string()]).nullable() }),
  z.object({ kind: z.literal('offered'), offered: z.boolean() }),
  z.object({ kind: z.literal('page'), rows, more: z.boolean() }),
  z.object({ kind: z.literal('usual'), rows }),
  z.object({ kind: z.literal('picked'), rows, more: z.boolean() }),
  z.object({ kind: z.literal('last'), row: row.nullable() }),
  z.object({ kind: z.literal('number'), next: z.number() }),
  z.object({ kind: z.literal('items'), items: rows }),
  z.object({ kind: z.literal('funnel'), all: z.number(), remaining: z.array(z.number()) }),
  z.object({ kind: z.literal('failed'), reason: z.string() }),
]);
/** A want with its answer, as it travels. */
export const answered: z.ZodType<Answered, Answered> = z.object({ want, answer });
const origins = z.record(z.string(), origin);
/** A record as an entry opens it: its values, its lines, and where they came from. */
export const record = z.object({
  values,
  origins,
  lines: z.record(z.string(), z.array(z.object({ id: whole, values }))).optional(),
  /** where the values of lines came from, once for all that were filled alike; `lines` are their numbers */
  lineOrigins: z.array(z.object({ lines: z.array(whole), origins })).optional(),
});
/** Today, the moment and the person, as an entry was opened with them. */
export const context = z.object({
  today: z.string(),
  now: z.string(),
  me: whole,
  roles: z.array(z.enum(ROLES)),
  calendar: z.object({ workingDays: z.array(whole), holidays: z.array(z.string()) }),
});
const opened = z.object({
  form: formSchema,
  version: whole,
  tables: z.array(table),
  lists: z.array(optionListSchema),
  feeds: z.array(feedSchema),
  context: context.extend({ parent: whole.nullable() }),
  /** `view`: whoever asks may see the record and not change it */
  mode: z.enum(['new', 'edit', 'view']),
  record: record.extend({ id: whole, revision: whole }).nullable(),
  answered: z.array(answered),
  /** names in the address that fields had in a version before, each with the field's name now */
  renamed: z.record(z.string(), z.string()),
});
/** What is in the address: values for fields, and the record to open under. */
const address = z.record(z.string().max(100), z.union([z.string().max(1000), z.array(z.string())]));
const saveBody = z.object({
  /** the version it was typed on; it is judged by the newest */
  version: whole,
  edits: z.array(edit).max(50_000),
  revision: whole.nullable(),
  /** the key of the request: asked again with it, a save is not done twice */
  request: z.string().min(8).max(100),
  opened: z
    .object({ parent: whole.nullable(), url: z.record(z.string().max(100), z.string().max(1000)), at: z.string().max(40).optional() })
    .refine((o) => Object.keys(o.url).length <= 100, 'at most 100 values can stand in an address')
    .optional(),
  /** how it was entered: counted, without who entered */
  how: z
    .object({
      seconds: whole.max(86_400).nullable(),
      choices: z
        .array(z.object({ field, offered: whole.nullable(), at: whole.nullable(), searched: z.string().max(LONGEST_SEARCH) }))
        .max(500),
    })
    .optional(),
});
/** By group of lines, each line as the screen numbered it with the row it is saved in. */
const savedLines = z.record(z.string(), z.array(z.object({ line: whole, id: whole, values })));
/** What was saved, and the version it was judged by: the newest. */
const saved = z.object({
  id: whole,
  revision: whole,
  version: whole,
  values,
  lines: savedLines,
  /** typed on a version before: what the newest has no place for, by label */
  lost: z.array(z.string()).optional(),
});

export const entries = {
  begin: define({ method: 'GET', path: 'forms/:key/entry', may: 'signedIn', right: ['enter'], about: 'Opens a new entry on the newest version, under a record and with values of the address where these are given.', query: address, answer: opened }),
  open: define({ method: 'GET', path: 'forms/:key/records/:id', may: 'signedIn', right: ['see'], about: 'Opens an existing record on the newest version.', answer: opened }),
  wants: define({
    method: 'POST', path: 'forms/:key/wants', may: 'signedIn', right: ['enter', 'see', 'edit'], about: 'Answers what an open entry wants: all of a settle in one request, of what its form reads.',
    body: z.object({
      version: z.union([whole, z.literal('draft')]), wants: z.array(want).min(1).max(MAX_WANTS),
      /** of a draft that is tried out: as whom */
      person: whole.min(1).optional(),
    }),
    answer: z.array(answered),
  }),
  list: define({
    method: 'GET', path: 'forms/:key/records', may: 'signedIn', right: ['see'], about: 'A page of a form’s records, as a view shows them; with `whole`, what is told of all that the view shows.',
    query: gridQuery.extend({ view: viewText, whole: z.enum(['0', '1']).default('0').transform((w) => w === '1') }),
    answer: z.object({ form: formSchema, version: whole, columns: z.array(columnSchema), rows: z.array(viewRow), total: z.number(), whole: viewWhole.nullable(), linked }),
  }),
  save: define({ method: 'POST', path: 'forms/:key/records', may: 'signedIn', right: ['enter'], about: 'Saves a new record.', body: saveBody, answer: saved }),
  change: define({ method: 'PUT', path: 'forms/:key/records/:id', may: 'signedIn', right: ['edit'], about: 'Saves an existing record, unless somebody else saved it meanwhile (409).', body: saveBody, answer: saved }),
  remove: define({
    method: 'DELETE', path: 'forms/:key/records/:id', may: 'signedIn', right: ['delete'], about: 'Deletes a record with its lines; refused with the rows that link to it, and where somebody saved it meanwhile (409).',
    query: z.object({ revision: z.coerce.number().int().min(0) }), answer: done,
  }),
  export: define({
    method: 'GET', path: 'forms/:key/export', may: 'signedIn', right: ['export'], about: 'The records of a form as a file to keep, exactly as a view shows them, as far as whoever asks may read them.',
    query: z.object({ as: z.enum(['csv', 'xlsx']).default('csv'), view: viewText, search: z.string().max(200).default('') }),
  }),
  here: define({
    method: 'POST', path: 'forms/:key/records/:id/here', may: 'signedIn', right: ['see'], about: 'Says that a window has a record open, or (`gone`) no longer has; tells who else has it open, and how often it was saved.',
    body: z.object({ window: z.string().min(8).max(60), gone: z.boolean().default(false) }),
    answer: z.object({ others: z.array(z.string()), revision: whole.nullable() }),
  }),
  history: define({
    method: 'GET', path: 'forms/:key/records/:id/history', may: 'signedIn', right: ['see'], about: 'What happened to a record, newest first.',
    answer: z.array(z.object({ id: whole, kind: z.enum(['created', 'changed', 'deleted']), at: z.string(), by: z.string(), formVersion: whole.nullable(), account: whole.nullable(), changes: z.record(z.string(), z.tuple([datum, datum])), origins: z.record(z.string(), z.enum(ORIGIN_KINDS)), reason: z.string().nullable(), linked })),
  }),
  related: define({
    method: 'GET', path: 'forms/:key/records/:id/related', may: 'signedIn', right: ['see'], about: 'What belongs to a record, and its neighbours.',
    answer: z.object({ groups: z.array(linkingRows.extend({ forms: z.array(z.object({ form: z.string(), label: z.string(), field: z.string().nullable() })) })), before: whole.nullable(), after: whole.nullable() }),
  }),
}; // prettier-ignore

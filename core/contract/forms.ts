import { z } from 'zod';
import { formSchema } from '../form/schemas.ts';
import type { FormulaPlace } from '../form/formulas.ts';
import { RIGHTS } from '../form/rights.ts';
import { ruleSchema } from '../form/ruleSchemas.ts';
import { isIsoDateTime } from '../values/dates.ts';
import { feedSchema } from '../model/schemas.ts';
import { optionListSchema } from '../model/schemas.ts';
import { answered, context, edit, record } from './entries.ts';
import { ROLES, define } from './define.ts';
import { cascadeRow, count, datum, key, label, revision, table, whole } from './values.ts';

const formSummary = z.object({
  key: z.string(),
  /** why its definition cannot be read, when it cannot */
  broken: z.string().nullable(),
  label: z.string(),
  table: z.string(),
  version: z.number().nullable(),
  publishedAt: z.string().nullable(),
  changedAt: z.string(),
  changes: z.array(z.string()),
  problems: z.object({ errors: z.number(), warnings: z.number() }),
  /** what whoever asks may do with its records */
  may: z.array(z.enum(RIGHTS)),
});
const level = z.object({
  slot: whole,
  field: z.string(),
  label: z.string(),
  table: z.string(),
  link: z.string().nullable(),
  tableLabel: z.string(),
  summary: z.object({
    rows: z.number(),
    offered: z.number(),
    orphans: z.number(),
    gaps: z.number(),
    singles: z.number(),
    parents: z.number(),
  }),
});
const spelled = z.object({ text: z.string(), ids: z.array(whole), count: z.number() });
/** Rows that mean one (`rows`), or one value written in several ways (`values`), stand in `spellings`. */
const coverage = z.object({
  cascades: z.array(z.object({ levels: z.array(level) })),
  spellings: z.array(
    z.object({ table: z.string(), tableLabel: z.string(), column: z.string(), columnLabel: z.string(), kind: z.enum(['rows', 'values']), spelled: z.array(spelled) }),
  ),
  /** tables too large to be looked through for near duplicates */
  notLooked: z.array(z.string()),
}); // prettier-ignore

/** The part of a field that a formula stands in: `value`, `choices.when` … */
const part = z.custom<FormulaPlace['part']>((p) => typeof p === 'string');

export const forms = {
  list: define({
    method: 'GET', path: 'forms', may: 'signedIn', forPrograms: true, about: 'All forms with their published version, unpublished changes and problems; for those who enter, the published ones alone.',
    answer: z.array(formSummary),
  }),
  make: define({
    method: 'POST', path: 'forms', may: 'design', about: 'Makes a form, saving into a table that exists (with `fields`, with a field for each of its columns) or into a new one.',
    body: z.object({ label, table: z.string().nullable(), fields: z.boolean().default(false) }), answer: key,
  }),
  draft: define({
    method: 'GET', path: 'forms/:key/draft', may: 'design', about: 'The draft with everything the design screen needs to run it.',
    answer: z.object({ draft: formSchema, revision: whole, version: whole.nullable(), published: formSchema.nullable(), tables: z.array(table), lists: z.array(optionListSchema), feeds: z.array(feedSchema), context, answered: z.array(answered), /** tables whose rows may belong to somebody */ owned: z.array(z.string()), accounts: z.array(z.object({ person: whole, roles: z.array(z.enum(ROLES)) })) }),
  }),
  saveDraft: define({
    method: 'PUT', path: 'forms/:key/draft', may: 'design', about: 'Saves the draft, unless somebody else saved it meanwhile (409).',
    body: z.object({ draft: formSchema, revision: whole }), answer: revision,
  }),
  publish: define({ method: 'POST', path: 'forms/:key/publish', may: 'design', about: 'Publishes the draft as a new version.', body: revision.extend({ note: z.string().trim().max(500).default('') }), answer: z.object({ version: whole }) }),
  versions: define({
    method: 'GET', path: 'forms/:key/versions', may: 'design', about: 'The published versions, newest first, whole.',
    answer: z.array(z.object({ version: whole, at: z.string(), by: z.string(), note: z.string(), form: formSchema })),
  }),
  goBack: define({
    method: 'POST', path: 'forms/:key/versions/:version/back', may: 'design', about: 'Publishes a version from before as the newest. A draft with nothing unpublished becomes it too; one that has something stays.',
    body: z.object({}), answer: z.object({ version: whole, draftStays: z.boolean() }),
  }),
  copy: define({ method: 'POST', path: 'forms/:key/copy', may: 'design', about: 'Makes a form with the same draft under another name, saving into the same table, with the same rights.', body: z.object({ label }), answer: key }),
  file: define({
    method: 'GET', path: 'forms/:key/file', may: 'design', about: 'A form as a JSON file to keep: its definition, what it needs of the workspace, its rehearsals.',
    query: z.object({ version: z.coerce.number().int().min(1).optional() }),
  }),
  bringIn: define({
    method: 'POST', path: 'forms/file', may: 'design', about: 'Makes a form from such a file, as a draft. Refused with what is missing here, where its tables, lists or feeds are not there or do not fit (422).',
    body: z.object({ file: z.unknown() }), maxBytes: 4_000_000, answer: z.object({ key: z.string(), label: z.string(), notes: z.array(z.string()) }),
  }),
  trySave: define({
    method: 'POST', path: 'forms/:key/tryout', may: 'design', about: 'What saving would say of an entry of the draft: what must be corrected, or what would be stored. Nothing is written.',
    body: z.object({
      edits: z.array(edit).max(50_000), record: whole.min(1).nullable(), step: z.string().max(200).nullable(), parent: whole.nullable(),
      url: z.record(z.string().max(100), z.string().max(1000)), at: z.string().refine(isIsoDateTime, 'a moment such as 2026-03-01T08:00:00').nullable(), person: whole.min(1).optional(),
    }),
    answer: z.object({ issues: z.array(z.object({ address: z.string(), message: z.string() })), changes: z.record(z.string(), z.tuple([datum, datum])), said: z.array(z.string()) }),
  }),
  tryout: define({ method: 'GET', path: 'forms/:key/tryout', may: 'design', about: 'An existing record as the draft opens it, to be tried on without being saved.', query: z.object({ record: count.min(1) }), answer: record }),
  addLines: define({
    method: 'POST', path: 'forms/:key/lines', may: 'design', about: 'Makes a child table for lines of a form, with the link to the record and the place of the line.',
    body: z.object({ label }), answer: z.object({ table: z.string(), link: z.string(), order: z.string() }),
  }),
  rules: define({
    method: 'GET', path: 'rules', may: 'design', about: 'The rules of the drafts of all forms, each with its form: one rule may be used in several.',
    answer: z.array(z.object({ form: z.string(), formLabel: z.string(), rule: ruleSchema })),
  }),
  formulas: define({
    method: 'GET', path: 'formulas', may: 'design', about: 'Formulas of all forms that use any of these names.',
    query: z.object({ names: z.string().max(10_000).transform((s) => s.split(',').filter((n) => n !== '')) }),
    answer: z.array(z.object({ form: z.string(), formLabel: z.string(), path: z.string(), label: z.string(), part, text: z.string(), names: z.array(z.string()) })),
  }),
  cascades: {
    count: define({ method: 'POST', path: 'forms/:key/cascades', may: 'design', about: 'Begins to count every cascade of the draft, and to look for names that differ only in spelling.', body: z.object({}), answer: z.object({ job: z.string() }), result: coverage }),
    rows: define({
      method: 'GET', path: 'forms/:key/cascades/rows', may: 'design', about: 'Rows of one level, with their children counted.',
      query: z.object({ cascade: count, level: count, parent: count.optional().transform((p) => p ?? null), only: z.enum(['all', 'gaps', 'singles', 'orphans']).default('all'), offset: count.default(0), limit: count.max(500).default(200) }),
      answer: z.object({ rows: z.array(cascadeRow), total: z.number() }),
    }),
    whole: define({ method: 'GET', path: 'forms/:key/cascades/whole', may: 'design', about: 'A whole cascade for a picture of it: its levels from the top, as many as can be drawn.', query: z.object({ cascade: count }), answer: z.object({ levels: z.array(z.array(cascadeRow)) }) }),
  },
}; // prettier-ignore

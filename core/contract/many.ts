import { z } from 'zod';
import { edit } from './entries.ts';
import { define } from './define.ts';
import { MOST_AT_ONCE } from './limits.ts';
import { begun, datum, linked, values, whole } from './values.ts';

/* Many records at once: rows of a sheet entered through the form, one field of many records changed, many deleted; and taking back. */

const MOST_COLUMNS = 200;
const field = z.string().max(125);
/** What is wrong with a row: at a field, or, without one, with the whole. */
const wrong = z.object({ field: z.string().nullable(), text: z.string(), message: z.string() });
/** A record by its number, as somebody saw it. */
const seen = z.object({ id: whole.min(1), revision: whole.min(0) });
const chosen = z.array(seen).min(1).max(MOST_AT_ONCE);
/** What became of each record that was to be changed. */
const outcome = z.object({ id: whole, revision: whole.nullable(), message: z.string().nullable() });

export const many = {
  rows: define({
    method: 'POST', path: 'forms/:key/many', may: 'signedIn', right: ['enter'], about: 'Begins to run rows of texts through the form: what each would be saved as, and what is wrong with it. Nothing is saved.',
    body: z.object({
      /** of each column of the rows, the field that it is for; null: none */
      columns: z.array(field.nullable()).min(1).max(MOST_COLUMNS),
      rows: z.array(z.array(z.string().max(20_000)).max(MOST_COLUMNS)).min(1).max(MOST_AT_ONCE),
    }),
    maxBytes: 8_000_000, answer: begun,
    result: z.object({
      version: whole,
      rows: z.array(z.object({
        /** what the record would hold, by field */
        values,
        /** the fields that filled in by themselves */
        filled: z.array(z.string()),
        wrong: z.array(wrong),
        edits: z.array(edit),
      })),
      linked,
    }),
  }),
  save: define({
    method: 'POST', path: 'forms/:key/many/save', may: 'signedIn', right: ['enter'], about: 'Begins to save rows, each as a record of its own; one that is refused takes no other with it.',
    body: z.object({ version: whole, rows: z.array(z.object({ edits: z.array(edit).max(500), request: z.string().min(8).max(100) })).min(1).max(MOST_AT_ONCE) }),
    maxBytes: 8_000_000, answer: begun,
    result: z.object({ rows: z.array(z.object({ id: whole.nullable(), wrong: z.array(wrong) })) }),
  }),
  file: define({
    method: 'POST', path: 'forms/:key/many/file', may: 'signedIn', right: ['enter'], about: 'Reads a sheet (CSV or XLSX) into rows of texts, as the body of the request. Nothing of it is kept.',
    query: z.object({ name: z.string().min(1).max(300) }), takesFile: true,
    answer: z.object({ headers: z.array(z.string()), rows: z.array(z.array(z.string())), more: z.boolean() }),
  }),
  change: define({
    method: 'POST', path: 'forms/:key/records/change', may: 'signedIn', right: ['edit'], about: 'Begins to set one field of some records through the form; with `dry`, to tell what that would change, and nothing is saved.',
    body: z.object({ version: whole, records: chosen, field, value: datum, dry: z.boolean() }),
    answer: begun,
    result: z.object({
      records: z.array(outcome.extend({
        /** by field, what it was and what it is */
        changes: z.record(z.string(), z.tuple([datum, datum])),
      })),
      linked,
    }),
  }),
  /** what was changed, taken back: as long as nobody changed it since */
  undo: define({
    method: 'POST', path: 'forms/:key/records/undo', may: 'signedIn', right: ['edit'], about: 'Begins to take the last change of some records back, or a certain one of a single record, through the form: of each field that it changed, where that still stands. A record that was saved since it was seen stays as it is.',
    body: z.object({
      records: chosen,
      /** which line of a single record's history; the newest where it is not said */
      change: whole.min(1).optional(),
    }).refine((b) => b.change === undefined || b.records.length === 1, { path: ['change'], message: 'A certain change is that of a single record.' }), answer: begun, result: z.object({ records: z.array(outcome) }),
  }),
  remove: define({
    method: 'POST', path: 'forms/:key/records/delete', may: 'signedIn', right: ['delete'], about: 'Begins to delete some records with their lines. One that something links to, or that was changed since, stays.',
    body: z.object({ records: chosen }), answer: begun, result: z.object({ records: z.array(outcome) }),
  }),
  restore: define({
    method: 'POST', path: 'forms/:key/records/restore', may: 'signedIn', right: ['delete'], about: 'Begins to put deleted records back with their lines, under the numbers they had.',
    body: z.object({ ids: z.array(whole.min(1)).min(1).max(MOST_AT_ONCE) }), answer: begun, result: z.object({ records: z.array(outcome) }),
  }),
}; // prettier-ignore

import { z } from 'zod';
import { COLUMN_TYPES } from '../model/tables.ts';
import { columnSchema, keySchema } from '../model/schemas.ts';
import { define } from './define.ts';
import {
  begun,
  cascadeRow,
  count,
  datum,
  done,
  gridQuery,
  key,
  label,
  linked,
  linkingRows,
  recordRow,
  row,
  subset,
  table,
  values,
  whole,
} from './values.ts';

/** What does not convert stands in `examples`, the commonest first, each with why and how many rows have it. */
const retyped = z.object({ rows: z.number(), filled: z.number(), changed: z.number(), lost: z.number(), examples: z.array(z.object({ text: z.string(), message: z.string(), count: z.number() })), uses: z.array(z.object({ form: z.string(), label: z.string(), field: z.string(), how: z.string() })) }); // prettier-ignore

const together = z.object({
  by: z.string(), columns: z.array(z.string()), values: whole, fits: whole, of: whole,
  exceptions: z.array(z.object({ row: whole, column: z.string(), said: datum, mostly: datum })),
}); // prettier-ignore

/** A table with what the screens need beside it: which tables link to it. */
const tableSummary = table.extend({ children: z.array(z.object({ table: z.string(), column: z.string() })) });

export const tables = {
  list: define({ method: 'GET', path: 'tables', may: 'design', about: 'All tables with their columns, counts and children.', answer: z.array(tableSummary) }),
  make: define({
    method: 'POST', path: 'tables', may: 'design', about: 'Makes a table with its columns; a column may link to the table itself (`@self`).',
    body: z.object({ label, shown: z.string().max(60).nullable().default(null), columns: z.array(columnSchema).min(1).max(200) }), answer: key,
  }),
  change: define({
    method: 'PATCH', path: 'tables/:key', may: 'design', about: 'Changes a table’s label or shown column.',
    body: z.object({ label: z.string().min(1).max(120).optional(), shown: z.string().nullable().optional() }), answer: done,
  }),
  rename: define({
    method: 'POST', path: 'tables/:key/name', may: 'design', about: 'Gives a table another name, in every formula, form and subset that names it; answers how many forms do.',
    body: z.object({ name: z.string().max(60) }), answer: z.object({ forms: z.number() }),
  }),
  remove: define({ method: 'DELETE', path: 'tables/:key', may: 'design', about: 'Deletes a table and its rows; refused while something uses it.', answer: done }),
  subsets: define({
    method: 'PUT', path: 'tables/:key/subsets', may: 'design', about: 'Sets the named conditions of a table.',
    body: z.object({ subsets: z.array(subset.extend({ key: keySchema, label, condition: z.string().trim().min(1).max(20_000) })).max(100) }), answer: done,
  }),
  merge: define({
    method: 'POST', path: 'tables/:key/merge', may: 'design', about: 'Makes one row of several that mean the same: what linked to any of them links to the one that is kept. With preview, only what links to them. `repair` is what it can be put back by.',
    body: z.object({ keep: whole, drop: z.array(whole).min(1).max(50), preview: z.boolean().default(false) }),
    answer: z.object({ moved: z.number(), links: z.array(z.object({ table: z.string(), label: z.string(), columnLabel: z.string(), count: z.number() })), repair: whole.nullable() }),
  }),
  respell: define({
    method: 'POST', path: 'tables/:key/respell', may: 'design', about: 'Writes one spelling over others that mean the same. With preview, only which rows that changes, at most 100 of them. `repair` is what it can be put back by.',
    body: z.object({ column: z.string(), from: z.array(z.string()).min(1).max(100), to: z.string().min(1), preview: z.boolean().default(false) }),
    answer: z.object({ changed: z.number(), rows: z.array(z.object({ id: whole, known: z.string(), was: z.string() })), repair: whole.nullable() }),
  }),
  together: define({
    method: 'POST', path: 'tables/:key/together', may: 'design', about: 'Begins to look for columns that come together: where one says what others are, as each site has one region. Groups of a chain stand innermost first.',
    body: z.object({}), answer: begun, result: z.object({ rows: whole, chains: z.array(z.array(together)), /** more rows than were looked at */ older: z.boolean(), linked }),
  }),
  split: define({
    method: 'POST', path: 'tables/:key/split', may: 'design', about: 'Makes columns that come together tables of their own, and links to them; drafts and subsets are written anew. Refused where a published form saves into one, and, without mayLose, where rows say otherwise than most. `repair` is what it can be undone by.',
    body: z.object({
      /** innermost first */
      groups: z.array(z.object({ by: keySchema, columns: z.array(keySchema).min(1).max(60), label })).min(1).max(20),
      mayLose: z.boolean().default(false),
    }),
    answer: z.object({ tables: z.array(z.object({ key: z.string(), label: z.string(), rows: whole })), changed: whole, forms: z.array(z.string()), repair: whole }),
  }),
  undoRepair: define({
    method: 'POST', path: 'tables/:key/repairs/:id/undo', may: 'design', about: 'Puts back what a repair changed, where nobody has changed it since.',
    body: z.object({}), answer: z.object({ restored: z.number(), left: z.number() }),
  }),
  filled: define({ method: 'GET', path: 'tables/:key/columns/:column/filled', may: 'design', about: 'How many rows have a value in a column.', answer: z.object({ filled: z.number(), rows: z.number() }) }),
  exportOne: define({
    method: 'GET', path: 'tables/:key/export', may: 'design', about: 'A table as a file to keep.',
    query: z.object({ as: z.enum(['csv', 'json', 'xlsx', 'package']).default('csv') }),
  }),
  exportAll: define({ method: 'GET', path: 'tables/export', may: 'design', about: 'All tables as one data package.' }),

  addColumn: define({ method: 'POST', path: 'tables/:key/columns', may: 'design', about: 'Adds a column.', body: columnSchema, answer: done }),
  relabelColumn: define({ method: 'PATCH', path: 'tables/:key/columns/:column', may: 'design', about: 'Gives a column another label.', body: z.object({ label }), answer: done }),
  renameColumn: define({
    method: 'POST', path: 'tables/:key/columns/:column/name', may: 'design', about: 'Gives a column another name, in every formula, form and subset that names it; answers how many forms do.',
    body: z.object({ name: z.string().max(60) }), answer: z.object({ forms: z.number() }),
  }),
  removeColumn: define({ method: 'DELETE', path: 'tables/:key/columns/:column', may: 'design', about: 'Deletes a column; refused while something uses it.', answer: done }),
  retypeColumn: define({
    method: 'POST', path: 'tables/:key/columns/:column/type', may: 'design', about: 'What another type makes of a column’s values; with preview false, the change itself.',
    body: z.object({
      type: z.enum(COLUMN_TYPES), target: z.string().max(60).nullable(), decimals: whole.min(0).max(15).nullable(),
      /** only look, write nothing */
      preview: z.boolean(), mayLose: z.boolean().default(false),
    }),
    answer: retyped,
  }),
  parents: define({
    method: 'GET', path: 'tables/:key/columns/:column/parents', may: 'design', about: 'The rows that a link column leads to, each with the number of its children.',
    query: z.object({ only: z.enum(['all', 'gaps', 'singles']).default('all'), offset: count.default(0), limit: count.max(500).default(200) }),
    answer: z.object({ parent: z.object({ key: z.string(), label: z.string() }), rows: z.array(cascadeRow), total: z.number(), orphans: z.number() }),
  }),

  columnValues: define({
    method: 'GET', path: 'tables/:key/columns/:column/values', may: 'design', about: 'The values that stand in a text column, each once; of a link, what the rows it leads to are known by. Those that begin with the searched text first.',
    query: z.object({ search: z.string().max(200).default(''), limit: count.min(1).max(200).default(60) }), answer: z.object({ values: z.array(z.string()), more: z.boolean() }),
  }),
  find: define({
    method: 'GET', path: 'tables/:key/find', may: 'design', about: 'Rows in which a text stands, by what people know them by.',
    query: z.object({ search: z.string().max(200).default(''), limit: count.min(1).max(100).default(30) }), answer: z.object({ rows: z.array(z.object({ id: whole, text: z.string() })), total: z.number() }),
  }),
  rows: define({
    method: 'GET', path: 'tables/:key/rows', may: 'design', about: 'A window of a table, searched and sorted by the database.',
    query: gridQuery, answer: z.object({ rows: z.array(recordRow), total: z.number(), linked }),
  }),
  look: define({
    method: 'GET', path: 'tables/:key/rows/:id', may: 'signedIn', about: 'A row with its columns, what it links to and what links to it; for those who enter, a row that a form offers them.',
    answer: z.object({ table: z.object({ key: z.string(), label: z.string(), columns: z.array(columnSchema) }), text: z.string(), row, linked, children: z.array(linkingRows) }),
  }),
  addRow: define({ method: 'POST', path: 'tables/:key/rows', may: 'design', about: 'Adds a row.', body: z.object({ values }), answer: recordRow }),
  changeRow: define({
    method: 'PATCH', path: 'tables/:key/rows/:id', may: 'design', about: 'Changes a row that still has the revision the person saw.',
    body: z.object({ revision: whole, values }), answer: recordRow,
  }),
  removeRow: define({ method: 'DELETE', path: 'tables/:key/rows/:id', may: 'design', about: 'Deletes a row; refused with the rows that link to it.', answer: recordRow }),
}; // prettier-ignore

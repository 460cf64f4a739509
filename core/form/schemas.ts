import { z } from 'zod';
import { sourceSchema } from '../choices/sources/schemas.ts';
import { formulaText, keySchema } from '../model/schemas.ts';
import { COLUMN_TYPES } from '../model/tables.ts';
import { FIELD_FORMATS } from '../values/show.ts';
import type { Form } from './definition.ts';
import { valueSchema } from './fills/schemas.ts';
import { ownersSchema } from './peopleSchemas.ts';
import { rulesSchema } from './ruleSchemas.ts';
import { accessSchema, stepsSchema } from './stepSchemas.ts';

/** What is said: a text as it is typed, with holes for values (`{site.name}`), or what a formula gives. */
export const wordsSchema = z.union([z.string().max(400), z.object({ formula: z.string().max(200_000) }).strict()]);
export const checkSchema = z.object({
  when: z.string(),
  message: z.union([z.string().min(1).max(400), z.object({ formula: z.string().max(200_000) }).strict()]),
  severity: z.enum(['warning', 'error']).default('error'),
});
const checksSchema = z.array(checkSchema).max(200).default([]);
export const spreadSchema = z.object({
  field: keySchema,
  /** what is set; null clears the field */
  formula: formulaText,
  when: formulaText,
});
/** A small table from keys to a value: method → fee. Several keys may have one value. */
export const valueMapSchema = z.object({
  label: z.string().trim().min(1).max(120),
  lines: z
    .array(
      z.object({
        keys: z.array(z.string().trim().min(1).max(200)).min(1).max(50),
        value: z.union([z.number(), z.string().max(1000)]),
      }),
    )
    .max(1000)
    .default([]),
});
export const fieldSchema = z.object({
  label: z.string().min(1).max(120),
  type: z.enum(COLUMN_TYPES),
  /** the column it is saved in; null for a scratch field */
  column: keySchema.nullable().default(null),
  source: sourceSchema.nullable().default(null),
  value: valueSchema.nullable().default(null),
  decimals: z.number().int().min(0).max(15).nullable().default(null),
  /** how its values are shown, where that is not as everywhere */
  format: z.enum(FIELD_FORMATS).nullable().default(null),
  shown: formulaText,
  required: formulaText,
  locked: formulaText,
  hiddenValue: z.enum(['keep', 'clear']).default('keep'),
  checks: checksSchema,
  hint: wordsSchema.nullable().default(null),
  /** what it is called at entry, where that depends; else its label */
  called: wordsSchema.nullable().default(null),
  /** what stands in the empty field */
  placeholder: wordsSchema.nullable().default(null),
  /** what a change of this field, made by hand, sets or clears in others */
  spreads: z.array(spreadSchema).max(50).default([]),
  /** whether the next entry starts with the same value */
  carry: z.boolean().default(false),
  /** how much of its place the control takes at entry */
  width: z.enum(['narrow', 'usual', 'wide']).default('usual'),
  /** file: the kinds accepted, as endings ("pdf"); empty accepts all */
  accept: z.array(z.string().regex(/^[a-z0-9]{1,8}$/)).default([]),
  /** files: how many there may be, how large each and all of them, in megabytes; null: as the server allows */
  files: z
    .object({
      most: z.number().int().min(1).max(100).nullable().default(null),
      eachMb: z.number().positive().max(1000).nullable().default(null),
      allMb: z.number().positive().max(10_000).nullable().default(null),
    })
    .nullable()
    .default(null),
});
/** Line items: rows of a child table that belong to the record. */
export const linesSchema = z.object({
  label: z.string().min(1).max(120),
  /** the child table, and its column that links to the record */
  table: keySchema,
  link: keySchema,
  /** the number column of the child table that keeps the order of the lines */
  order: keySchema.nullable().default(null),
  /** how many blank lines a new entry starts with */
  start: z.number().int().min(0).max(20).default(1),
  fields: z.record(keySchema, fieldSchema),
  /** the keys of the fields, from left to right */
  columns: z.array(keySchema),
  shown: formulaText,
  /** at least one line that is not blank */
  required: formulaText,
  locked: formulaText,
  /** whether lines that are hidden count and are saved, or count as none */
  hiddenValue: z.enum(['keep', 'clear']).default('keep'),
});
/** What holds for everything that stands in a section or on a page, beside what each field says itself. */
const statesOfAll = {
  shown: formulaText,
  required: formulaText,
  locked: formulaText,
  /** of what it hides: `own` leaves it to each field */
  hiddenValue: z.enum(['own', 'keep', 'clear']).default('own'),
};
export const sectionSchema = z.object({
  id: z.string().min(1).max(60),
  label: z.string().max(120),
  ...statesOfAll,
  checks: checksSchema,
  /** the column of its page that it stands in, where the screen is wide enough */
  column: z.number().int().min(1).max(3).default(1),
  /** running text at its head, with holes for values */
  text: wordsSchema.nullable().default(null),
  /** whether it can be folded at entry, and how it stands until somebody folds or opens it */
  folds: z.enum(['never', 'open', 'folded']).default('never'),
  fields: z.array(keySchema),
});
export const pageSchema = z.object({
  id: z.string().min(1).max(60),
  label: z.string().max(120),
  ...statesOfAll,
  sections: z.array(sectionSchema),
});
export const formSchema = z
  .object({
    key: keySchema,
    label: z.string().min(1).max(120),
    table: keySchema,
    pages: z.array(pageSchema).min(1),
    fields: z.record(keySchema, fieldSchema),
    /** line items, by key; placed in a section like a field */
    lines: z.record(keySchema, linesSchema).default({}),
    /** the table whose records an entry may be opened under: what `parent` names */
    parent: keySchema.nullable().default(null),
    /** the column its records are known by, set when it is published; null leaves it to the table */
    known: keySchema.nullable().default(null),
    /** value maps, by the name formulas call them */
    maps: z.record(keySchema, valueMapSchema).default({}),
    /** checks of the whole form */
    checks: checksSchema,
    /** in the order in which they act */
    rules: rulesSchema,
    /** the steps of a record's life; null where it has none */
    steps: stepsSchema.nullable().default(null),
    /** who sees and who fills what, at which steps; one entry a place */
    access: z.array(accessSchema).max(500).default([]),
    /** whom a record belongs to; null: to everybody */
    owners: ownersSchema.nullable().default(null),
    /** what publishing does while a rehearsal of the form does not come out as expected */
    red: z.enum(['warn', 'refuse']).default('warn'),
  })
  .superRefine((form, context) => {
    const placed = new Set<string>();
    for (const [key, lines] of Object.entries(form.lines)) {
      const issue = (path: string[], message: string): void => context.addIssue({ code: 'custom', path: ['lines', key, ...path], message });
      if (form.fields[key]) issue([], `The name “${key}” is used by a field and by lines.`);
      for (const column of lines.columns)
        if (!lines.fields[column]) issue(['columns'], `The lines name a field “${column}” that they do not have.`);
      for (const field of Object.keys(lines.fields))
        if (!lines.columns.includes(field)) issue(['fields', field], `The field “${field}” is in no column of the lines.`);
    }
    form.pages.forEach((page, i) =>
      page.sections.forEach((section, j) =>
        section.fields.forEach((key, k) => {
          const path = ['pages', i, 'sections', j, 'fields', k];
          if (!form.fields[key] && !form.lines[key])
            context.addIssue({ code: 'custom', path, message: `The section names a field “${key}” that the form does not have.` });
          if (placed.has(key)) context.addIssue({ code: 'custom', path, message: `The field “${key}” is placed twice.` });
          placed.add(key);
        }),
      ),
    );
    for (const key of Object.keys(form.fields)) {
      if (!placed.has(key)) context.addIssue({ code: 'custom', path: ['fields', key], message: `The field “${key}” is in no section.` });
    }
    form.rules.forEach((rule, i) => {
      if (form.rules.findIndex((r) => r.id === rule.id) !== i)
        context.addIssue({ code: 'custom', path: ['rules', i, 'id'], message: `Two rules are named “${rule.id}”.` });
    });
    const twice = (all: readonly string[], path: (string | number)[], what: string): void =>
      all.forEach((one, i) => {
        if (all.indexOf(one) !== i) context.addIssue({ code: 'custom', path: [...path, i], message: `${what} “${one}” is there twice.` });
      });
    twice(form.steps?.list.map((s) => s.value) ?? [], ['steps', 'list'], 'The step');
    twice(form.steps?.moves.map((m) => m.id) ?? [], ['steps', 'moves'], 'The move');
    twice(form.access.map((a) => a.place), ['access'], 'What is said of who sees and fills'); // prettier-ignore
    for (const key of Object.keys(form.lines)) {
      if (!placed.has(key)) context.addIssue({ code: 'custom', path: ['lines', key], message: `The lines “${key}” are in no section.` });
    }
  });

/** An empty form saving into a table. */
export function newForm(key: string, label: string, table: string): Form {
  return {
    key,
    label,
    table,
    pages: [pageSchema.parse({ id: 'p1', label: '', sections: [{ id: 's1', label: 'Section 1', fields: [] }] })],
    fields: {},
    lines: {},
    parent: null,
    known: null,
    maps: {},
    checks: [],
    rules: [],
    steps: null,
    access: [],
    owners: null,
    red: 'warn',
  };
}

/** Fills in what a partial definition leaves out. Throws ZodError when it is no form. */
export const parseForm = (input: unknown): Form => formSchema.parse(input);

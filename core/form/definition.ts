import { z } from 'zod';
import { COLUMN_TYPES, keySchema } from './tables.ts';

/*
 * A form definition: one JSON document, plain data, readable by a person. Conditions and values are formula text.
 * Defaults are filled in when it is parsed, so that everything behind the parser sees every property.
 */

/** Formula text; null is "no formula". Blank text is the same as none. */
const formulaText = z
  .string()
  .max(200_000)
  .nullable()
  .default(null)
  .transform((t) => (t === null || t.trim() === '' ? null : t));

const narrowingShape = {
  /** the condition a candidate must meet to be offered now; `choice` names the candidate */
  where: formulaText,
  /** what the list does while a field it waits for is empty */
  waiting: z.enum(['none', 'all', 'hide']).default('none'),
  /** what happens to the choice when a driver changes */
  onDriverChange: z.enum(['clearIfGone', 'clear', 'keep']).default('clearIfGone'),
  /** the only one left is taken, or left to be chosen */
  single: z.enum(['take', 'leave']).default('leave'),
  /** choosing this first fills the empty fields its narrowing equates */
  fillUp: z.boolean().default(true),
};

export const rowsSourceSchema = z.object({
  kind: z.literal('rows'),
  table: keySchema,
  /** the column shown; null is a mistake that is reported, not guessed */
  show: keySchema.nullable().default(null),
  beside: z.array(keySchema).default([]),
  search: z.array(keySchema).default([]),
  sort: z.array(keySchema).default([]),
  ...narrowingShape,
});
export const optionsSourceSchema = z.object({
  kind: z.literal('options'),
  options: z.array(z.object({ value: z.string().min(1).max(200), label: z.string().min(1).max(200) })).default([]),
  ...narrowingShape,
});
export const listSourceSchema = z.object({
  kind: z.literal('list'),
  list: keySchema,
  /** the level offered, 1 the top; null offers the whole tree */
  level: z.number().int().min(1).max(20).nullable().default(null),
  ...narrowingShape,
});
export const distinctSourceSchema = z.object({
  kind: z.literal('distinct'),
  table: keySchema,
  /** the column whose values are offered, each once */
  values: keySchema.nullable().default(null),
  ...narrowingShape,
});
export const sourceSchema = z.discriminatedUnion('kind', [rowsSourceSchema, optionsSourceSchema, listSourceSchema, distinctSourceSchema]);

export const valueSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('default'), formula: z.string().default('') }),
  z.object({
    kind: z.literal('prefill'),
    formula: z.string().default(''),
    typedOver: z.enum(['keep', 'refill']).default('keep'),
    once: z.boolean().default(false),
  }),
  z.object({ kind: z.literal('calculation'), formula: z.string().default(''), always: z.boolean().default(false) }),
]);

export const checkSchema = z.object({
  when: z.string(),
  message: z.string().min(1).max(400),
  severity: z.enum(['warning', 'error']).default('error'),
});

export const fieldSchema = z.object({
  label: z.string().min(1).max(120),
  type: z.enum(COLUMN_TYPES),
  /** the column it is saved in; null for a scratch field */
  column: keySchema.nullable().default(null),
  source: sourceSchema.nullable().default(null),
  value: valueSchema.nullable().default(null),
  decimals: z.number().int().min(0).max(15).nullable().default(null),
  shown: formulaText,
  required: formulaText,
  locked: formulaText,
  hiddenValue: z.enum(['keep', 'clear']).default('keep'),
  checks: z.array(checkSchema).default([]),
  hint: z.string().max(400).nullable().default(null),
});

export const sectionSchema = z.object({
  id: z.string().min(1).max(60),
  label: z.string().max(120),
  shown: formulaText,
  fields: z.array(keySchema),
});
export const pageSchema = z.object({ id: z.string().min(1).max(60), label: z.string().max(120), sections: z.array(sectionSchema) });

export const formSchema = z
  .object({
    key: keySchema,
    label: z.string().min(1).max(120),
    table: keySchema,
    pages: z.array(pageSchema).min(1),
    fields: z.record(keySchema, fieldSchema),
  })
  .superRefine((form, context) => {
    const placed = new Set<string>();
    form.pages.forEach((page, i) =>
      page.sections.forEach((section, j) =>
        section.fields.forEach((key, k) => {
          const path = ['pages', i, 'sections', j, 'fields', k];
          if (!form.fields[key])
            context.addIssue({ code: 'custom', path, message: `The section names a field “${key}” that the form does not have.` });
          if (placed.has(key)) context.addIssue({ code: 'custom', path, message: `The field “${key}” is placed twice.` });
          placed.add(key);
        }),
      ),
    );
    for (const key of Object.keys(form.fields)) {
      if (!placed.has(key)) context.addIssue({ code: 'custom', path: ['fields', key], message: `The field “${key}” is in no section.` });
    }
  });

export type Form = z.infer<typeof formSchema>;
export type Field = z.infer<typeof fieldSchema>;
export type FieldSource = z.infer<typeof sourceSchema>;
export type RowsSource = z.infer<typeof rowsSourceSchema>;
export type FieldValue = z.infer<typeof valueSchema>;
export type Section = z.infer<typeof sectionSchema>;

/** The keys of the fields in the order of pages and sections: the order people read and fill. */
export const fieldOrder = (form: Form): readonly string[] => form.pages.flatMap((p) => p.sections.flatMap((s) => s.fields));

/** An empty form saving into a table. */
export function newForm(key: string, label: string, table: string): Form {
  return {
    key,
    label,
    table,
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'Section 1', shown: null, fields: [] }] }],
    fields: {},
  };
}

/** Fills in what a partial definition leaves out. Throws ZodError when it is no form. */
export const parseForm = (input: unknown): Form => formSchema.parse(input);

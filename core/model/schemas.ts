import { z } from 'zod';
import { FEED_TYPES } from './feeds.ts';
import { DEEPEST_OPTION, LONGEST_OPTION, MOST_OPTIONS, OPTION_COLOURS } from './lists.ts';
import { COLUMN_TYPES, keyProblem } from './tables.ts';

/*
 * How what is kept and sent is read. Schemas stand apart from what they describe: whoever only works with tables, lists and forms that
 * were read, as the browser does at entry, loads none of this.
 */

/** Formula text; null is "no formula". Blank text is the same as none. */
export const formulaText = z
  .string()
  .max(200_000)
  .nullable()
  .default(null)
  .transform((t) => (t === null || t.trim() === '' ? null : t));

export const keySchema = z.string().refine((k) => keyProblem(k) === null, { error: (i) => keyProblem(String(i.input)) ?? 'bad name' });
export const columnSchema = z.object({
  key: keySchema,
  label: z.string().min(1).max(120),
  type: z.enum(COLUMN_TYPES),
  /** link: the table whose rows it holds */
  target: keySchema.nullable().default(null),
  /** number: decimals kept; null for any */
  decimals: z.number().int().min(0).max(15).nullable().default(null),
  /** text: the most characters; null for the general limit */
  length: z.number().int().min(1).max(100_000).nullable().default(null),
});

export const optionItemSchema = z.object({
  /** what is stored; unique in the list without regard to case */
  value: z.string().trim().min(1).max(LONGEST_OPTION),
  label: z.string().trim().min(1).max(LONGEST_OPTION),
  depth: z.number().int().min(0).max(DEEPEST_OPTION),
  colour: z.enum(OPTION_COLOURS).nullable().default(null),
  /** a letter or sign that stands with the colour */
  mark: z.string().max(2).nullable().default(null),
  /** not offered any more; records that have it keep it */
  retired: z.boolean().default(false),
});
export const optionListSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  items: z.array(optionItemSchema).max(MOST_OPTIONS),
});

/** A way into an answer: names and places joined by dots (`data.items`, `names.0`); blank is the whole. */
const path = z
  .string()
  .trim()
  .max(200)
  .regex(/^([^.\s]+(\.[^.\s]+)*)?$/, 'A path is names joined by dots, without spaces.');
export const feedParameterSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  type: z.enum(FEED_TYPES).default('text'),
  /** without it the service is not asked */
  required: z.boolean().default(true),
  /** what the try-it panel starts with */
  example: z.string().max(200).default(''),
});
export const feedAttributeSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  type: z.enum(FEED_TYPES).default('text'),
  path,
});
export const feedHeaderSchema = z.object({
  name: z.string().regex(/^[A-Za-z0-9-]{1,60}$/, 'A header name has letters, digits and hyphens only.'),
  /** the value; null when it is a secret, which the server keeps and never sends back */
  value: z.string().max(1000).nullable(),
});
export const feedSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(120),
  method: z.enum(['GET', 'POST']).default('GET'),
  /** the address with `{name}` where a parameter goes; a path alone is a service that ships with the application */
  url: z.string().trim().min(1).max(1000),
  /** POST: JSON with `"{name}"` where a parameter goes */
  body: z.string().max(10_000).default(''),
  headers: z.array(feedHeaderSchema).max(20).default([]),
  params: z.array(feedParameterSchema).max(20).default([]),
  /** where the list of items is; blank when the whole answer is it, or is the one item */
  items: path.default(''),
  /** inside an item: what is stored, and what is shown (blank: the same); blank value: the item itself */
  value: path.default(''),
  label_path: path.default(''),
  attributes: z.array(feedAttributeSchema).max(40).default([]),
  /** how long one try may take, in seconds */
  timeout: z.number().min(0.1).max(60).default(5),
  /** the largest answer read, in kilobytes */
  limit: z.number().int().min(1).max(10_000).default(500),
  /** how long an answer is kept, in seconds; 0 asks each time */
  keep: z.number().int().min(0).max(86_400).default(300),
  /** tries after the first that failed */
  retries: z.number().int().min(0).max(5).default(1),
});

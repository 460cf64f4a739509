import { z } from 'zod';
import { formulaText, keySchema } from '../../model/schemas.ts';

/** What every source has, wherever its candidates come from. */
export const NARROWING = {
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

export const rowsSchema = z.object({
  kind: z.literal('rows'),
  table: keySchema,
  /** a subset of the table; null takes all rows */
  subset: keySchema.nullable().default(null),
  /** the column shown; null is a mistake that is reported, not guessed */
  show: keySchema.nullable().default(null),
  /** formula text over `choice` that writes what is shown instead of the column; the column stays what it is found by */
  shownAs: formulaText,
  beside: z.array(keySchema).default([]),
  search: z.array(keySchema).default([]),
  sort: z.array(keySchema).default([]),
  /** what stands above the list while nothing is searched: what was chosen last, or most often */
  first: z.enum(['none', 'recent', 'used']).default('none'),
  ...NARROWING,
});

export const optionsSchema = z.object({
  kind: z.literal('options'),
  options: z.array(z.object({ value: z.string().min(1).max(200), label: z.string().min(1).max(200) })).default([]),
  ...NARROWING,
});

export const listSchema = z.object({
  kind: z.literal('list'),
  list: keySchema,
  /** the level offered, 1 the top; null offers the whole tree */
  level: z.number().int().min(1).max(20).nullable().default(null),
  ...NARROWING,
});

export const distinctSchema = z.object({
  kind: z.literal('distinct'),
  table: keySchema,
  subset: keySchema.nullable().default(null),
  /** the column whose values are offered, each once */
  values: keySchema.nullable().default(null),
  ...NARROWING,
});

export const feedSchema = z.object({
  kind: z.literal('feed'),
  feed: keySchema,
  /** formula text for each parameter of the feed */
  params: z.record(keySchema, z.string().max(20_000)).default({}),
  ...NARROWING,
});

export const attributesSchema = z.object({
  kind: z.literal('attributes'),
  /** formula text: a row, whose columns are offered, or JSON, whose keys are */
  of: z.string().max(20_000).default(''),
  ...NARROWING,
});

export const jsonSchema = z.object({
  kind: z.literal('json'),
  /** JSON typed by hand: a list of texts or of objects with value and label, or an object */
  text: z.string().max(200_000).default(''),
  ...NARROWING,
});

export const sourceSchema = z.discriminatedUnion('kind', [
  rowsSchema,
  optionsSchema,
  listSchema,
  distinctSchema,
  feedSchema,
  attributesSchema,
  jsonSchema,
]);

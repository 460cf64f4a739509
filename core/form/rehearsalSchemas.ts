import { z } from 'zod';
import { isIsoDateTime } from '../values/dates.ts';

const path = z.string().min(1).max(130);
/** the place of a line among its lines, from 1 */
const line = z.number().int().min(1).max(10_000).optional();
const text = z.string().max(1000);
/** A value as a file holds it: a text (of a row, what it is known by), a number, yes or no, several of them, or nothing. */
export const rehearsalValueSchema = z.union([text, z.number(), z.boolean(), z.null(), z.array(z.union([text, z.number()])).max(200)]);
export const rehearsalStepSchema = z.union([
  z.object({ do: z.literal('set'), field: path, line, to: rehearsalValueSchema }).strict(),
  z.object({ do: z.literal('clear'), field: path, line }).strict(),
  z.object({ do: z.literal('take'), field: path, line }).strict(),
  z.object({ do: z.literal('move'), move: z.string().max(60) }).strict(),
  z.object({ do: z.literal('addLine'), lines: path }).strict(),
  z.object({ do: z.literal('removeLine'), lines: path, line: z.number().int().min(1).max(10_000) }).strict(),
  z.object({ expect: z.literal('value'), field: path, line, is: rehearsalValueSchema }).strict(),
  /** how many choices a list offers; or that one is offered, or is not */
  z.object({ expect: z.literal('offers'), field: path, line, count: z.number().int().min(0) }).strict(),
  z.object({ expect: z.literal('offered'), field: path, line, choice: text, is: z.boolean() }).strict(),
  z.object({ expect: z.literal('state'), field: path, line, state: z.enum(['shown', 'required', 'locked']), is: z.boolean() }).strict(),
  z.object({ expect: z.literal('lines'), lines: path, count: z.number().int().min(0) }).strict(),
  z.object({ expect: z.literal('says'), field: path, line, message: text }).strict(),
  /** what stands against saving, a sentence each, in any order; none: it may be saved */
  z.object({ expect: z.literal('saving'), refused: z.array(text).max(100) }).strict(),
]);
export const rehearsalSchema = z.object({
  label: z.string().trim().min(1).max(200),
  /** by the name in People; null: nobody in particular */
  as: z.string().max(200).nullable().default(null),
  /** a record by what it is known by; null: a new entry */
  record: text.nullable().default(null),
  mode: z.enum(['edit', 'view']).default('edit'),
  /** the step the record is taken to stand at */
  step: z.string().max(60).nullable().default(null),
  /** the record it is opened under */
  parent: text.nullable().default(null),
  url: z.record(z.string().max(100), text).default({}),
  /** the moment it is taken to be */
  at: z.string().refine(isIsoDateTime, 'a moment such as 2026-03-01T08:00:00'),
  steps: z.array(rehearsalStepSchema).max(500),
});

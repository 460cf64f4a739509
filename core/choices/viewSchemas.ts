import { z } from 'zod';
import { OPTION_COLOURS } from '../model/lists.ts';
import { KEY_PATTERN } from '../model/tables.ts';
import { GROUP_BY, MOST_COLOURS, SUMS, VIEW_SIGNS } from './views.ts';

const column = z.string().max(60).regex(KEY_PATTERN);
const condition = z.string().max(4000);
export const viewSchema = z.object({
  /** which records; null: all */
  where: condition.nullable().default(null),
  /** the columns shown, in their order; null: those that are usual */
  columns: z.array(column).min(1).max(200).nullable().default(null),
  /** the first counts most */
  sort: z
    .array(z.object({ column, descending: z.boolean() }))
    .max(4)
    .default([]),
  group: z
    .object({ column, by: z.enum(GROUP_BY) })
    .nullable()
    .default(null),
  sums: z
    .array(z.object({ column, of: z.enum(SUMS) }))
    .max(8)
    .default([]),
  /** the first that holds gives a record its colour */
  colours: z
    .array(
      z.object({
        where: condition.min(1),
        colour: z.enum(OPTION_COLOURS),
        sign: z.enum(VIEW_SIGNS),
        word: z.string().trim().min(1).max(60),
      }),
    )
    .max(MOST_COLOURS)
    .default([]),
  /** looked at as a calendar: on which day a record stands, and until which */
  calendar: z.object({ from: column, until: column.nullable() }).nullable().default(null),
});

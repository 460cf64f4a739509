import { z } from 'zod';
import { type Origin, PLAIN_ORIGINS } from '../model/origin.ts';
import type { Datum, Row } from '../values/types.ts';
import { columnSchema } from '../model/schemas.ts';

/* Parts that many routes share. */

const scalar = z.union([z.null(), z.number(), z.string().max(200_000), z.boolean()]);
/** Any plain value as it travels; whether it fits is judged by the field or column. */
export const datum: z.ZodType<Datum, Datum> = z.union([scalar, z.array(scalar).max(10_000)]);
/** A row: its number, and its columns by key. */
export const row: z.ZodType<Row, Row> = z.object({ id: z.number() }).catchall(datum);
/** Values by column or field. */
export const values = z.record(z.string(), datum);
/** A row as it is kept: when it was changed last, and by which version of a form it was saved. */
export const recordRow = z.object({
  row,
  revision: z.number().int(),
  changedAt: z.string().nullable(),
  formVersion: z.number().int().nullable(),
});
export const whole = z.number().int();
/** A whole number as it stands in an address. */
export const count = z.coerce.number<number | string>().int().min(0);
export const label = z.string().trim().min(1).max(120);
export const done = z.object({ ok: z.literal(true) });
export const DONE = { ok: true } as const;
export const key = z.object({ key: z.string() });
/** Work was begun: what it is called. */
export const begun = z.object({ job: z.string() });
export const revision = z.object({ revision: whole });
/** Texts of linked rows, by table and number. */
export const linked = z.record(z.string(), z.record(z.string(), z.string()));
export const usedBy = z.array(z.object({ key: z.string(), label: z.string() }));
export const subset = z.object({ key: z.string(), label: z.string(), condition: z.string() });
export const table = z.object({
  key: z.string(),
  label: z.string(),
  shown: z.string().nullable(),
  columns: z.array(columnSchema),
  rows: z.number(),
  large: z.boolean(),
  subsets: z.array(subset).optional(),
});
/** A window onto rows: what is searched, how they are sorted, and which of them. */
export const gridQuery = z.object({
  search: z.string().max(200).default(''),
  sort: z
    .string()
    .max(60)
    .optional()
    .transform((s) => s ?? null),
  descending: z
    .enum(['0', '1'])
    .default('0')
    .transform((d) => d === '1'),
  offset: count.default(0),
  limit: count.min(1).max(500).default(100),
});
/** Rows that link to a row, table by table. */
export const linkingRows = z.object({
  table: z.string(),
  label: z.string(),
  column: z.string(),
  columnLabel: z.string(),
  count: z.number(),
  rows: z.array(z.object({ id: z.number(), text: z.string() })),
});
/** Where a value came from. */
export const origin: z.ZodType<Origin, Origin> = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(PLAIN_ORIGINS) }),
  z.object({ kind: z.enum(['filledUp', 'spread']), from: z.string() }),
  z.object({ kind: z.literal('rule'), rule: z.string() }),
  z.object({ kind: z.literal('move'), move: z.string() }),
  z.object({ kind: z.literal('cleared'), by: z.array(z.string()) }),
  z.object({
    kind: z.literal('stored'),
    get was() {
      return origin;
    },
  }),
]);
/** A row of a cascade, with its children counted where it can have some. */
export const cascadeRow = z.object({
  id: whole,
  parent: whole.nullable(),
  text: z.string().nullable(),
  offered: z.boolean(),
  children: z.number().nullable(),
  childrenOffered: z.number().nullable(),
});

import { z } from 'zod';
import type { Edit } from '../../core/engine/state.ts';
import type { Want } from '../../core/engine/wants.ts';
import type { Datum } from '../../core/values/types.ts';

const scalar = z.union([z.null(), z.number(), z.string().max(200_000), z.boolean()]);
/** Any plain value as it travels; whether it fits is judged by the field or column. */
export const datum = z.union([scalar, z.array(scalar).max(10_000)]) as z.ZodType<Datum>;

const field = z.string().max(125);
const line = z.number().int();
const inLine = line.optional();
export const editSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('set'), field, line: inLine, value: datum, by: z.enum(['url', 'carried']).optional() }),
  z.object({ kind: z.literal('clear'), field, line: inLine }),
  z.object({ kind: z.literal('takeSuggestion'), field, line: inLine }),
  z.object({ kind: z.literal('addLine'), field, line, at: z.number().int().min(0).optional() }),
  z.object({ kind: z.literal('removeLine'), field, line }),
  z.object({ kind: z.literal('moveLine'), field, line, to: z.number().int().min(0) }),
]) as z.ZodType<Edit>;

const asked = { field, params: z.array(datum).max(100), open: z.array(z.number().int()).max(100) };
export const wantSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('table'), table: field }),
  z.object({ kind: z.literal('row'), table: field, id: z.number().int() }),
  z.object({ kind: z.literal('feed'), feed: field, params: z.record(z.string().max(60), datum) }),
  z.object({ kind: z.literal('count'), ...asked }),
  z.object({ kind: z.literal('offered'), value: z.union([z.number().int(), z.string().max(1000)]), ...asked }),
  z.object({
    kind: z.literal('page'),
    search: z.string().max(200),
    offset: z.number().int().min(0),
    limit: z.number().int().min(1),
    ...asked,
  }),
  z.object({ kind: z.literal('funnel'), ...asked }),
  z.object({ kind: z.literal('usual'), ...asked }),
  z.object({ kind: z.literal('picked'), pick: z.number().int().min(0), params: z.array(datum).max(100) }),
  z.object({ kind: z.literal('last'), column: field.nullable(), value: datum }),
  z.object({ kind: z.literal('series'), series: z.string().max(200) }),
]) as z.ZodType<Want>;

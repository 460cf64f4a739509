import { z } from 'zod';
import type { Edit } from '../../core/engine/state.ts';
import type { Want } from '../../core/engine/wants.ts';
import type { Datum } from '../../core/values/types.ts';

const scalar = z.union([z.null(), z.number(), z.string().max(200_000), z.boolean()]);
/** Any plain value as it travels; whether it fits is judged by the field or column. */
export const datum = z.union([scalar, z.array(scalar).max(10_000)]) as z.ZodType<Datum>;

const field = z.string().max(60);
export const editSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('set'), field, value: datum }),
  z.object({ kind: z.literal('clear'), field }),
  z.object({ kind: z.literal('takeSuggestion'), field }),
]) as z.ZodType<Edit>;

const asked = { field, params: z.array(datum).max(100), open: z.array(z.number().int()).max(100) };
export const wantSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('table'), table: field }),
  z.object({ kind: z.literal('row'), table: field, id: z.number().int() }),
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
]) as z.ZodType<Want>;

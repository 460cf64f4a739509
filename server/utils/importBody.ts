import { z } from 'zod';
import { COLUMN_TYPES } from '../../core/form/tables.ts';
import type { ImportPlan } from '../services/imports';

const repair = z.union([z.object({ to: z.number().int() }), z.object({ empty: z.literal(true) }), z.object({ add: z.literal(true) })]);
const plan = z.object({
  key: z.string(),
  label: z.string().max(120),
  shown: z.string().nullable(),
  columns: z.array(
    z.object({ key: z.string(), label: z.string().min(1).max(120), type: z.enum(COLUMN_TYPES), target: z.string().nullable() }).nullable(),
  ),
  repairs: z.record(z.string(), z.record(z.string(), repair)),
  into: z.string().nullable().default(null),
  match: z.string().nullable().default(null),
}) as unknown as z.ZodType<ImportPlan>;
export const importBody = z.object({ plan, upload: z.string() });

import { z } from 'zod';
import type { SaveRequest } from '../services/entries';
import { editSchema } from './datum';

export const saveBody = z.object({
  /** the version it was typed on; it is judged by the newest */
  version: z.number().int(),
  edits: z.array(editSchema).max(50_000),
  revision: z.number().int().nullable(),
  request: z.string().min(8).max(100),
  opened: z
    .object({
      parent: z.number().int().nullable(),
      url: z.record(z.string().max(100), z.string().max(1000)),
      at: z.string().max(40).optional(),
    })
    .refine((o) => Object.keys(o.url).length <= 100, 'at most 100 values can stand in an address')
    .optional(),
}) as z.ZodType<SaveRequest>;

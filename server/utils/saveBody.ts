import { z } from 'zod';
import type { SaveRequest } from '../services/entries';
import { editSchema } from './datum';

export const saveBody = z.object({
  version: z.number().int(),
  edits: z.array(editSchema).max(5000),
  revision: z.number().int().nullable(),
  request: z.string().min(8).max(100),
}) as z.ZodType<SaveRequest>;

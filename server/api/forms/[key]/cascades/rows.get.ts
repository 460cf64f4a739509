import { z } from 'zod';
import { type CascadeQuery, cascadeLevelRows } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

const whole = z.coerce.number().int().min(0);
const query = z.object({
  cascade: whole,
  level: whole,
  parent: whole.optional().transform((p) => p ?? null),
  only: z.enum(['all', 'gaps', 'singles', 'orphans']).default('all'),
  offset: whole.default(0),
  limit: whole.max(500).default(200),
}) as unknown as z.ZodType<CascadeQuery>;

/** Rows of one level, with their children counted. */
export default route({ may: 'design', query }, ({ ws, params, query: asked }) => cascadeLevelRows(ws, params.key ?? '', asked));

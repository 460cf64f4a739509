import { z } from 'zod';
import { childrenByParent } from '../../../../../services/related';
import { route } from '../../../../../utils/route';

const whole = z.coerce.number().int().min(0);
const query = z.object({
  only: z.enum(['all', 'gaps', 'singles']).default('all'),
  offset: whole.default(0),
  limit: whole.max(500).default(200),
}) as unknown as z.ZodType<{ only: 'all' | 'gaps' | 'singles'; offset: number; limit: number }>;

/** The parents that a link column leads to, each with the number of its children. */
export default route({ may: 'design', query }, ({ ws, params, query: asked }) =>
  childrenByParent(ws, params.key ?? '', params.column ?? '', asked),
);

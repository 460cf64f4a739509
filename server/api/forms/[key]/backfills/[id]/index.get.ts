import { z } from 'zod';
import { type Showing, backfillPage } from '../../../../../services/backfills';
import { idParam, route } from '../../../../../utils/route';

const query = z.object({
  show: z.enum(['changes', 'refused', 'skipped']).default('changes'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
}) as unknown as z.ZodType<{ show: Showing; offset: number; limit: number }>;

/** A page of what a backfill proposes or did. */
export default route({ may: 'design', query }, ({ ws, params, query: asked }) =>
  backfillPage(ws, params.key ?? '', idParam(params), asked),
);

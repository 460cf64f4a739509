import { z } from 'zod';
import { type Subset, keySchema } from '../../../../core/form/tables.ts';
import { saveSubsets } from '../../../services/structure';
import { route } from '../../../utils/route';

const body = z.object({
  subsets: z
    .array(z.object({ key: keySchema, label: z.string().trim().min(1).max(120), condition: z.string().trim().min(1).max(20_000) }))
    .max(100),
}) as unknown as z.ZodType<{ subsets: Subset[] }>;

/** Sets the named conditions of a table. */
export default route({ may: 'design', body }, async ({ ws, params, body: { subsets } }) => {
  await saveSubsets(ws, params.key ?? '', subsets);
  return { ok: true };
});

import { z } from 'zod';
import { renameTable } from '../../../services/tables';
import { route } from '../../../utils/route';

const body = z.object({ label: z.string().min(1).max(120).optional(), shown: z.string().nullable().optional() });

/** Changes a table's label or shown column. */
export default route({ may: 'design', body }, async ({ ws, params, body: change }) => {
  await renameTable(ws, params.key ?? '', change);
  return { ok: true };
});

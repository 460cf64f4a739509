import { z } from 'zod';
import { relabelColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

const body = z.object({ label: z.string().trim().min(1).max(120) });

/** Gives a column another label. */
export default route({ may: 'design', body }, async ({ ws, params, body: { label } }) => {
  await relabelColumn(ws, params.key ?? '', params.column ?? '', label);
  return { ok: true };
});

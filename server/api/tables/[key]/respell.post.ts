import { z } from 'zod';
import { respellValues } from '../../../services/coverage';
import { route } from '../../../utils/route';

const body = z.object({ column: z.string(), from: z.array(z.string()).min(1).max(100), to: z.string().min(1) });

/** Writes one spelling over others that mean the same. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { column, from, to } }) => ({
  changed: await respellValues(ws, account, params.key ?? '', column, from, to),
}));

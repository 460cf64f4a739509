import { z } from 'zod';
import { mergeRows } from '../../../services/coverage';
import { route } from '../../../utils/route';

const body = z.object({ keep: z.number().int(), drop: z.number().int() });

/** Makes one row of two that mean the same. */
export default route({ may: 'design', body }, ({ ws, account, params, body: { keep, drop } }) =>
  mergeRows(ws, account, params.key ?? '', keep, drop),
);

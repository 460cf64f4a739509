import type { z } from 'zod';
import { type Column, columnSchema } from '../../../../../core/form/tables.ts';
import { addColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

/** Adds a column. */
export default route({ may: 'design', body: columnSchema as unknown as z.ZodType<Column> }, async ({ ws, params, body }) => {
  await addColumn(ws, params.key ?? '', body);
  return { ok: true };
});

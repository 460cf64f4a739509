import { z } from 'zod';
import { COLUMN_TYPES } from '../../../../../../core/form/tables.ts';
import { type TypeChange, changeColumnType, previewType } from '../../../../../services/structure';
import { route } from '../../../../../utils/route';

const body = z.object({
  type: z.enum(COLUMN_TYPES),
  target: z.string().max(60).nullable(),
  decimals: z.number().int().min(0).max(15).nullable(),
  /** only look, write nothing */
  preview: z.boolean(),
  mayLose: z.boolean().default(false),
}) as unknown as z.ZodType<TypeChange & { preview: boolean; mayLose: boolean }>;

/** What another type makes of a column's values, and the change itself. */
export default route({ may: 'design', body }, ({ ws, params, body: { preview, mayLose, ...change } }) =>
  preview
    ? previewType(ws, params.key ?? '', params.column ?? '', change)
    : changeColumnType(ws, params.key ?? '', params.column ?? '', change, mayLose),
);

import { z } from 'zod';
import { usesOf } from '../../services/formulas';
import { route } from '../../utils/route';

const query = z.object({
  names: z
    .string()
    .max(10_000)
    .transform((s) => s.split(',').filter((n) => n !== '')),
}) as unknown as z.ZodType<{ names: readonly string[] }>;

/** Formulas of all forms that use any of these names. */
export default route({ may: 'design', query }, ({ ws, query: asked }) => usesOf(ws, asked.names));

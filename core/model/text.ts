import { z } from 'zod';

/** Formula text; null is "no formula". Blank text is the same as none. */
export const formulaText = z
  .string()
  .max(200_000)
  .nullable()
  .default(null)
  .transform((t) => (t === null || t.trim() === '' ? null : t));

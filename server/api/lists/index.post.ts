import { z } from 'zod';
import { createList } from '../../services/lists';
import { route } from '../../utils/route';

const body = z.object({ label: z.string().trim().min(1).max(120), outline: z.string().max(1_000_000).default('') });

/** Makes an option list, empty or from a pasted outline. */
export default route(
  { may: 'design', body: body as unknown as z.ZodType<{ label: string; outline: string }> },
  async ({ ws, account, body: { label, outline } }) => ({ key: await createList(ws, account, label, outline) }),
);

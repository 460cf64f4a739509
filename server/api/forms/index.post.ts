import { z } from 'zod';
import { createForm } from '../../services/forms';
import { route } from '../../utils/route';

const body = z.object({ label: z.string().trim().min(1).max(120), table: z.string().nullable() });

/** Makes a form, saving into a table that exists or into a new one. */
export default route({ may: 'design', body }, async ({ ws, account, body: { label, table } }) => ({
  key: await createForm(ws, account, label, table),
}));

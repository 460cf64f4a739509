import { z } from 'zod';
import { feedSchema } from '../../../core/form/feeds.ts';
import { createFeed } from '../../services/feeds';
import { route } from '../../utils/route';

const body = z.object({ label: z.string().trim().min(1).max(120) });

/** Makes a feed that asks nothing yet. */
export default route({ may: 'design', body }, async ({ ws, account, body: { label } }) => ({
  key: await createFeed(ws, account, feedSchema.parse({ key: 'new', label, url: 'https://' })),
}));

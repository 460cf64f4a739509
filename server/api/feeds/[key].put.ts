import { z } from 'zod';
import { type Feed, feedSchema } from '../../../core/form/feeds.ts';
import { saveFeed } from '../../services/feeds';
import { route } from '../../utils/route';

const body = z.object({
  feed: feedSchema,
  revision: z.number().int(),
  secrets: z.record(z.string(), z.string().max(2000).nullable()).default({}),
}) as unknown as z.ZodType<{ feed: Feed; revision: number; secrets: Record<string, string | null> }>;

/** Saves a feed. Secrets come in and never go out; those not named stay as they are. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { feed, revision, secrets } }) => ({
  revision: await saveFeed(ws, account, { ...feed, key: params.key ?? '' }, secrets, revision),
}));

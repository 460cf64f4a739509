import { z } from 'zod';
import { type Feed, feedSchema } from '../../../core/form/feeds.ts';
import type { Datum } from '../../../core/values/types.ts';
import { FeedFailure } from '../../feeds/request';
import { tryFeed } from '../../services/feeds';
import { datum } from '../../utils/datum';
import { route } from '../../utils/route';

const body = z.object({
  feed: feedSchema,
  params: z.record(z.string(), datum),
  secrets: z.record(z.string(), z.string().max(2000).nullable()).default({}),
}) as unknown as z.ZodType<{ feed: Feed; params: Record<string, Datum>; secrets: Record<string, string | null> }>;

/** Asks a feed as it stands on the screen, saved or not, past what is kept; gives the raw answer and what is made of it. */
export default route({ may: 'design', body }, async ({ ws, body: { feed, params, secrets } }) => {
  try {
    return { ok: true, ...(await tryFeed(ws, feed, params, secrets)) };
  } catch (e) {
    if (e instanceof FeedFailure) return { ok: false, message: e.message, body: e.body };
    throw e;
  }
});

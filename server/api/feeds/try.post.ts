import { contract } from '../../../core/contract/index.ts';
import { FeedFailure } from '../../feeds/request';
import { tryFeed } from '../../services/feeds';
import { route } from '../../utils/route';

/** Asks a feed as it stands on the screen, saved or not, past what is kept; gives the raw answer and what is made of it. */
export default route(contract.feeds.attempt, async ({ ws, body: { feed, params, secrets } }) => {
  try {
    return { ok: true, ...(await tryFeed(ws, feed, params, secrets)) };
  } catch (e) {
    if (e instanceof FeedFailure) return { ok: false, message: e.message, body: e.body };
    throw e;
  }
});

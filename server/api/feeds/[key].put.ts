import { contract } from '../../../core/contract/index.ts';
import { saveFeed } from '../../services/feeds';
import { route } from '../../utils/route';

/** Saves a feed. Secrets come in and never go out; those not named stay as they are. */
export default route(contract.feeds.save, async ({ ws, account, params, body: { feed, revision, secrets } }) => ({
  revision: await saveFeed(ws, account, { ...feed, key: params.key }, secrets, revision),
}));

import { contract } from '../../../core/contract/index.ts';
import { feedSchema } from '../../../core/model/schemas.ts';
import { createFeed } from '../../services/feeds';
import { route } from '../../utils/route';

/** Makes a feed that asks nothing yet. */
export default route(contract.feeds.make, async ({ ws, account, body: { label } }) => ({
  key: await createFeed(ws, account, feedSchema.parse({ key: 'new', label, url: 'https://' })),
}));

import { contract } from '../../../core/contract/index.ts';
import { DONE } from '../../../core/contract/values.ts';
import { removeFeed } from '../../services/feeds';
import { route } from '../../utils/route';

/** Deletes a feed; refused while a form asks it. */
export default route(contract.feeds.remove, async ({ ws, params }) => {
  await removeFeed(ws, params.key);
  return DONE;
});

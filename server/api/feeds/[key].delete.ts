import { removeFeed } from '../../services/feeds';
import { route } from '../../utils/route';

/** Deletes a feed; refused while a form asks it. */
export default route({ may: 'design' }, async ({ ws, params }) => {
  await removeFeed(ws, params.key ?? '');
  return { ok: true };
});

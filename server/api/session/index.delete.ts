import { openRoute } from '../../utils/route';

/** Signs out. */
export default openRoute(null, async ({ event }) => {
  await clearUserSession(event);
  return { account: null };
});

import { contract } from '../../../core/contract/index.ts';
import { endSession } from '../../services/sessions';
import { clearSessionToken, sessionToken } from '../../utils/cookie';
import { openRoute } from '../../utils/route';

/** Signs out: the session ends on the server, whoever else may hold its token. */
export default openRoute(contract.session.end, async ({ event, ws }) => {
  const token = sessionToken(event);
  if (token) await endSession(ws, token);
  clearSessionToken(event);
  return { account: null };
});

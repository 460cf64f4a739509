import { contract } from '../../../core/contract/index.ts';
import { usePersonLink } from '../../services/people';
import { beginSession, endSession } from '../../services/sessions';
import { attemptSucceeded, countAttempt } from '../../utils/attempts';
import { sessionToken, setSessionToken } from '../../utils/cookie';
import { openRoute } from '../../utils/route';

/** Sets a password by a one-time link and signs in. */
export default openRoute(contract.welcome.use, async ({ event, ws, params, body }) => {
  countAttempt(event, 'one-time link');
  const account = await usePersonLink(ws, params.token, body);
  attemptSucceeded(event, 'one-time link');
  const before = sessionToken(event);
  if (before) await endSession(ws, before);
  setSessionToken(event, await beginSession(ws, account));
  return { ok: true as const };
});

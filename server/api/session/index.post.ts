import { contract } from '../../../core/contract/index.ts';
import { accountByEmail, accountById } from '../../database/accounts';
import { Refused } from '../../services/errors';
import { decoyHash, verifyPassword } from '../../services/passwords';
import { beginSession, endSession } from '../../services/sessions';
import { attemptSucceeded, countAttempt } from '../../utils/attempts';
import { sessionToken, setSessionToken } from '../../utils/cookie';
import { openRoute } from '../../utils/route';

/** Signs in: with e-mail and password, or as one of the demo's people. A session there was before ends. */
export default openRoute(contract.session.begin, async ({ event, ws, body: sent }) => {
  const account = 'demo' in sent ? await demoAccount() : await byPassword(sent);
  const before = sessionToken(event);
  if (before) await endSession(ws, before);
  setSessionToken(event, await beginSession(ws, account.id));
  return { account };

  async function demoAccount() {
    const found = 'demo' in sent ? await accountById(ws.db, sent.demo) : null;
    if (!found?.demo) throw new Refused(403, 'forbidden', 'Only the people of the demo can be signed in to this way.');
    return found;
  }
  async function byPassword({ email, password }: { email: string; password: string }) {
    countAttempt(event, email);
    const found = await accountByEmail(ws.db, email);
    // a hash is computed either way, so that the time taken does not tell which addresses exist
    const good = await verifyPassword(found?.passwordHash ?? (await decoyHash()), password);
    if (!found || !good) throw new Refused(401, 'signIn', 'E-mail and password do not fit together.');
    attemptSucceeded(event, email);
    const { passwordHash: _, ...known } = found;
    return known;
  }
});

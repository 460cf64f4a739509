import { z } from 'zod';
import { accountByEmail, accountById } from '../../services/accounts';
import { Refused } from '../../services/errors';
import { attempts } from '../../utils/attempts';
import { openRoute } from '../../utils/route';

const body = z.union([z.object({ email: z.string().max(200), password: z.string().max(200) }), z.object({ demo: z.number().int() })]);

/** Signs in: with e-mail and password, or as one of the demo's people. */
export default openRoute(body, async ({ event, ws, body: sent }) => {
  if ('demo' in sent) {
    const account = await accountById(ws.db, sent.demo);
    if (!account?.demo) throw new Refused(403, 'forbidden', 'Only the people of the demo can be signed in to this way.');
    await replaceUserSession(event, { user: { account: account.id } });
    return { account };
  }
  attempts.check(event, sent.email);
  const account = await accountByEmail(ws.db, sent.email);
  // a hash is computed either way, so that the time taken does not tell which addresses exist
  const good = await verifyPassword(account?.passwordHash ?? (await attempts.decoy(hashPassword)), sent.password);
  if (!account || !good) {
    attempts.failed(event, sent.email);
    throw new Refused(401, 'signIn', 'E-mail and password do not fit together.');
  }
  attempts.cleared(event, sent.email);
  await replaceUserSession(event, { user: { account: account.id } });
  const { passwordHash: _, ...known } = account;
  return { account: known };
});

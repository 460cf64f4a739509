import { contract } from '../../../core/contract/index.ts';
import { demoAccounts } from '../../database/accounts';
import { openRoute, signedIn } from '../../utils/route';

/** Who is signed in (null when nobody is), and whom the demo offers to sign in as. */
export default openRoute(contract.session.read, async ({ event, ws }) => ({
  account: await signedIn(event, ws),
  demo: (await demoAccounts(ws.db)).map(({ id, name, email, roles }) => ({ id, name, email, roles })),
}));

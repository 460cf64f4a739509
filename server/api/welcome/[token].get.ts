import { contract } from '../../../core/contract/index.ts';
import { linkHolder } from '../../services/people';
import { workspaceSettings } from '../../services/settings';
import { attemptSucceeded, countAttempt } from '../../utils/attempts';
import { openRoute } from '../../utils/route';

/** Whom a one-time link is for. Tries are counted, as those to sign in are. */
export default openRoute(contract.welcome.read, async ({ event, ws, params }) => {
  countAttempt(event, 'one-time link');
  const { account } = await linkHolder(ws, params.token);
  attemptSucceeded(event, 'one-time link');
  return { name: account?.name ?? null, email: account?.email ?? null, workspace: (await workspaceSettings(ws)).name };
});

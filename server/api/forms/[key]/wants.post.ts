import { contract } from '../../../../core/contract/index.ts';
import { mayBuild } from '../../../../core/values/roles.ts';
import { answersFor } from '../../../services/access';
import { Refused } from '../../../services/errors';
import { draftOf, versionInUse } from '../../../services/forms';
import { triedAs } from '../../../services/people';
import { answerWants } from '../../../services/wants';
import { route } from '../../../utils/route';

/** Answers what an open entry wants: all of a settle in one request, of what its form reads. */
export default route(contract.entries.wants, async ({ ws, account, params, body: { version, wants, person } }) => {
  const key = params.key;
  if (version !== 'draft') return answersFor(ws, (await versionInUse(ws, key, version)).plan, account, wants);
  if (!mayBuild(account.roles)) throw new Refused(403, 'forbidden', 'Only those who build forms see drafts.');
  const { draft, revision } = await draftOf(ws, key);
  return answerWants(ws, await ws.plan(`draft ${revision}`, draft), wants, await triedAs(ws, account, person));
});

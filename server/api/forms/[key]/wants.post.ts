import { z } from 'zod';
import { DESIGN_ROLES } from '../../../services/accounts';
import { Refused } from '../../../services/errors';
import { draftOf, publishedForm } from '../../../services/forms';
import { answerWants } from '../../../services/wants';
import { wantSchema } from '../../../utils/datum';
import { route } from '../../../utils/route';

const body = z.object({ version: z.union([z.number().int(), z.literal('draft')]), wants: z.array(wantSchema).min(1) });

/** Answers what an open entry wants: all of a settle in one request. */
export default route({ may: 'signedIn', body }, async ({ ws, account, params, body: { version, wants } }) => {
  const key = params.key ?? '';
  if (version === 'draft' && !DESIGN_ROLES.includes(account.role))
    throw new Refused(403, 'forbidden', 'Only those who build forms see drafts.');
  if (version !== 'draft') return answerWants(ws, (await publishedForm(ws, key, version)).plan, wants, account.person);
  const { draft, revision } = await draftOf(ws, key);
  return answerWants(ws, await ws.plan(`draft ${revision}`, draft), wants, account.person);
});

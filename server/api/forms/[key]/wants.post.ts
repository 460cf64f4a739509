import { z } from 'zod';
import { DESIGN_ROLES } from '../../../services/accounts';
import { answersFor } from '../../../services/access';
import { Refused } from '../../../services/errors';
import { draftOf, versionInUse } from '../../../services/forms';
import { MAX_WANTS, answerWants } from '../../../services/wants';
import { wantSchema } from '../../../utils/datum';
import { route } from '../../../utils/route';

const body = z.object({
  version: z.union([z.number().int(), z.literal('draft')]),
  wants: z.array(wantSchema).min(1).max(MAX_WANTS),
  /** of a draft that is tried out: as whom */
  person: z.number().int().min(1).optional(),
});

/** Answers what an open entry wants: all of a settle in one request, of what its form reads. */
export default route({ may: 'signedIn', body }, async ({ ws, account, params, body: { version, wants, person } }) => {
  const key = params.key ?? '';
  if (version !== 'draft') return answersFor(ws, (await versionInUse(ws, key, version)).plan, account, wants);
  if (!DESIGN_ROLES.includes(account.role)) throw new Refused(403, 'forbidden', 'Only those who build forms see drafts.');
  const { draft, revision } = await draftOf(ws, key);
  return answerWants(ws, await ws.plan(`draft ${revision}`, draft), wants, person ?? account.person);
});

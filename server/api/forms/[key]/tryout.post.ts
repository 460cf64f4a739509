import { contract } from '../../../../core/contract/index.ts';
import { trySaving } from '../../../services/entries';
import { triedAs } from '../../../services/people';
import { draftOf } from '../../../services/forms';
import { route } from '../../../utils/route';

/** What saving would say of an entry of the draft. Nothing is written. */
export default route(contract.forms.trySave, async ({ ws, account, params, body: { edits, record, step, parent, url, at, person } }) => {
  const { draft, revision } = await draftOf(ws, params.key);
  const who = await triedAs(ws, account, person);
  const now = at ?? ws.clock.now();
  return trySaving(ws, who, await ws.plan(`draft ${revision}`, draft), { edits, record, step, opened: { parent, url }, now });
});

import { contract } from '../../../../core/contract/index.ts';
import { toldRecord } from '../../../../core/engine/told.ts';
import { storedRecord } from '../../../services/opening';
import { draftOf } from '../../../services/forms';
import { route } from '../../../utils/route';

/** An existing record as the draft opens it, to be tried on without being saved. */
export default route(contract.forms.tryout, async ({ ws, account, params, query: { record } }) => {
  const { draft, revision } = await draftOf(ws, params.key);
  return toldRecord((await storedRecord(ws, await ws.plan(`draft ${revision}`, draft), record, account)).record);
});

import { contract } from '../../../../../../core/contract/index.ts';
import { DONE } from '../../../../../../core/contract/values.ts';
import { forgetBackfill } from '../../../../../services/backfillView';
import { idParam, route } from '../../../../../utils/route';

/** Forgets a preview that was not applied. */
export default route(contract.backfills.forget, async ({ ws, params }) => {
  await forgetBackfill(ws, params.key, idParam(params));
  return DONE;
});

import { contract } from '../../../../../../core/contract/index.ts';
import { removeSituation } from '../../../../../services/situations';
import { idParam, route } from '../../../../../utils/route';

/** Removes a situation. */
export default route(contract.situations.remove, async ({ ws, account, params }) => {
  await removeSituation(ws, account, params.key, idParam(params));
  return { ok: true as const };
});

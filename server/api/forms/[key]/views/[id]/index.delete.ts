import { contract } from '../../../../../../core/contract/index.ts';
import { removeView } from '../../../../../services/views';
import { idParam, route } from '../../../../../utils/route';

/** Removes a view. */
export default route(contract.views.remove, async ({ ws, account, params }) => {
  await removeView(ws, account, params.key, idParam(params));
  return { ok: true as const };
});

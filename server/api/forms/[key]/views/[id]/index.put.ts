import { contract } from '../../../../../../core/contract/index.ts';
import { changeView } from '../../../../../services/views';
import { idParam, route } from '../../../../../utils/route';

/** Changes a view. */
export default route(contract.views.change, async ({ ws, account, params, body }) => {
  await changeView(ws, account, params.key, idParam(params), body);
  return { ok: true as const };
});

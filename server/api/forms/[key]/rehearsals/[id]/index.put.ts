import { contract } from '../../../../../../core/contract/index.ts';
import { changeRehearsal } from '../../../../../services/rehearsals';
import { idParam, route } from '../../../../../utils/route';

/** Writes a rehearsal anew. */
export default route(contract.rehearsals.change, async ({ ws, account, params, body }) => {
  await changeRehearsal(ws, account, params.key, idParam(params), body.rehearsal);
  return { ok: true as const };
});

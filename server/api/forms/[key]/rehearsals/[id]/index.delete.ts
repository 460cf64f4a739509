import { contract } from '../../../../../../core/contract/index.ts';
import { removeRehearsal } from '../../../../../services/rehearsals';
import { idParam, route } from '../../../../../utils/route';

/** Removes a rehearsal. */
export default route(contract.rehearsals.remove, async ({ ws, params }) => {
  await removeRehearsal(ws, params.key, idParam(params));
  return { ok: true as const };
});

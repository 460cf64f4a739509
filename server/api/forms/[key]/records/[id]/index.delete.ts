import { contract } from '../../../../../../core/contract/index.ts';
import { deleteRecord } from '../../../../../services/records';
import { idParam, route } from '../../../../../utils/route';

/** Deletes a record with its lines. */
export default route(contract.entries.remove, async ({ ws, account, params, query }) => {
  await deleteRecord(ws, account, params.key, idParam(params), query.revision);
  return { ok: true as const };
});

import { contract } from '../../../../../core/contract/index.ts';
import { deleteRecords } from '../../../../services/recordsAtOnce';
import { route } from '../../../../utils/route';

/** Begins to delete some records. */
export default route(contract.many.remove, async ({ ws, account, params, body, begin }) => ({
  job: begin('remove', (job) => deleteRecords(ws, account, params.key, body.records, job)),
}));

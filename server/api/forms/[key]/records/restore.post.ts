import { contract } from '../../../../../core/contract/index.ts';
import { restoreRecords } from '../../../../services/recordsAtOnce';
import { route } from '../../../../utils/route';

/** Begins to put deleted records back. */
export default route(contract.many.restore, async ({ ws, account, params, body, begin }) => ({
  job: begin('restore', (job) => restoreRecords(ws, account, params.key, body.ids, job)),
}));

import { contract } from '../../../../../core/contract/index.ts';
import { changeRecords } from '../../../../services/recordsAtOnce';
import { route } from '../../../../utils/route';

/** Begins to set one field of some records. */
export default route(contract.many.change, async ({ ws, account, params, body, begin }) => ({
  job: begin('change', (job) => changeRecords(ws, account, params.key, body, job)),
}));

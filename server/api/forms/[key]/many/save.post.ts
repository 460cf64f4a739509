import { contract } from '../../../../../core/contract/index.ts';
import { saveRows } from '../../../../services/manyRows';
import { route } from '../../../../utils/route';

/** Begins to save rows as records. */
export default route(contract.many.save, async ({ ws, account, params, body, begin }) => ({
  job: begin('save', (job) => saveRows(ws, account, params.key, body, job)),
}));

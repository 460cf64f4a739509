import { contract } from '../../../../../core/contract/index.ts';
import { tryRows } from '../../../../services/manyRows';
import { route } from '../../../../utils/route';

/** Begins to run rows of texts through a form. */
export default route(contract.many.rows, async ({ ws, account, params, body, begin }) => ({
  job: begin('rows', (job) => tryRows(ws, account, params.key, body, job)),
}));

import { contract } from '../../../../../core/contract/index.ts';
import { undoChanges } from '../../../../services/recordsAtOnce';
import { route } from '../../../../utils/route';

/** Begins to take the last change of some records back. */
export default route(contract.many.undo, async ({ ws, account, params, body, begin }) => ({
  job: begin('undo', (job) => undoChanges(ws, account, params.key, body.records, body.change, job)),
}));

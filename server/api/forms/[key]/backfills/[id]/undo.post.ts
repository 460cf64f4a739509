import { contract } from '../../../../../../core/contract/index.ts';
import { undoBackfill } from '../../../../../services/backfillWrite';
import { idParam, route } from '../../../../../utils/route';

/** Begins to put back what a backfill wrote. */
export default route(contract.backfills.undo, async ({ ws, account, begin, params }) => ({
  job: begin('backfill undo', (job) => undoBackfill(ws, account, params.key, idParam(params), job)),
}));

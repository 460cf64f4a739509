import { contract } from '../../../../../../core/contract/index.ts';
import { applyBackfill } from '../../../../../services/backfillWrite';
import { idParam, route } from '../../../../../utils/route';

/** Begins to write what a preview proposed. */
export default route(contract.backfills.apply, async ({ ws, account, begin, params }) => ({
  job: begin('backfill apply', (job) => applyBackfill(ws, account, params.key, idParam(params), job)),
}));

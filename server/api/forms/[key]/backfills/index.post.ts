import { contract } from '../../../../../core/contract/index.ts';
import { previewBackfill } from '../../../../services/backfillPreview';
import { route } from '../../../../utils/route';

/** Begins to compute what existing records would get. Nothing of them is changed. */
export default route(contract.backfills.preview, async ({ ws, account, begin, params, body: asked }) => ({
  job: begin('backfill preview', (job) => previewBackfill(ws, account, params.key, asked, job)),
}));

import { z } from 'zod';
import { undoBackfill } from '../../../../../services/backfills';
import { beginJob } from '../../../../../services/jobs';
import { idParam, route } from '../../../../../utils/route';

/** Begins to put back what a backfill wrote. */
export default route({ may: 'design', body: z.object({}) }, async ({ ws, account, params }) => ({
  job: beginJob('backfill undo', account.id, (job) => undoBackfill(ws, account, params.key ?? '', idParam(params), job)),
}));

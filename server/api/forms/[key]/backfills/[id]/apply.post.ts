import { z } from 'zod';
import { applyBackfill } from '../../../../../services/backfills';
import { beginJob } from '../../../../../services/jobs';
import { idParam, route } from '../../../../../utils/route';

/** Begins to write what a preview proposed. */
export default route({ may: 'design', body: z.object({}) }, async ({ ws, account, params }) => ({
  job: beginJob('backfill apply', account.id, (job) => applyBackfill(ws, account, params.key ?? '', idParam(params), job)),
}));

import { z } from 'zod';
import { OVERS } from '../../../../../core/engine/backfill.ts';
import { previewBackfill } from '../../../../services/backfills';
import { beginJob } from '../../../../services/jobs';
import { route } from '../../../../utils/route';

const body = z.object({
  fields: z.array(z.string().max(130)).max(500),
  over: z.enum(OVERS as ['empty', 'filled', 'all']).default('empty'),
  subset: z.string().max(60).nullable().default(null),
});

/** Begins to compute what existing records would get. Nothing of them is changed. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: asked }) => ({
  job: beginJob('backfill preview', account.id, (job) => previewBackfill(ws, account, params.key ?? '', asked, job)),
}));

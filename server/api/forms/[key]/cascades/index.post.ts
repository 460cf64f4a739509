import { z } from 'zod';
import { coverageOf } from '../../../../services/coverage';
import { beginJob } from '../../../../services/jobs';
import { route } from '../../../../utils/route';

/** Begins to count every cascade of the draft, and to look for names that differ only in spelling. */
export default route({ may: 'design', body: z.object({}) }, async ({ ws, account, params }) => ({
  job: beginJob('coverage', account.id, (job) => coverageOf(ws, params.key ?? '', job)),
}));

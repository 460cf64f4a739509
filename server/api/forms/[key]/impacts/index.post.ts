import { contract } from '../../../../../core/contract/index.ts';
import { findImpact } from '../../../../services/impact';
import { route } from '../../../../utils/route';

/** Begins to find what publishing the draft does to the records that exist. */
export default route(contract.impacts.find, async ({ ws, account, begin, params }) => ({
  job: begin('impact', (job) => findImpact(ws, account, params.key, job)),
}));

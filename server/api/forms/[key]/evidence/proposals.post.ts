import { contract } from '../../../../../core/contract/index.ts';
import { proposalsFor } from '../../../../services/proposals';
import { route } from '../../../../utils/route';

/** Begins to look for what the records of a form propose for it. */
export default route(contract.evidence.proposals, async ({ ws, begin, params }) => ({
  job: begin('proposals', (job) => proposalsFor(ws, params.key, job)),
}));

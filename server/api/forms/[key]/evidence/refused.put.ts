import { DONE } from '../../../../../core/contract/values.ts';
import { contract } from '../../../../../core/contract/index.ts';
import { refuseProposal } from '../../../../services/proposals';
import { route } from '../../../../utils/route';

/** Refuses a proposal for good, or no longer. */
export default route(contract.evidence.refuse, async ({ ws, params, body }) => {
  await refuseProposal(ws, params.key, body.proposal, body.refused);
  return DONE;
});

import { contract } from '../../../core/contract/index.ts';
import { DONE } from '../../../core/contract/values.ts';
import { cancelJob } from '../../services/jobs';
import { route } from '../../utils/route';

/** Cancels long work; it stops at its next step and leaves nothing behind. */
export default route(contract.jobs.cancel, async ({ account, params }) => {
  cancelJob(params.id, account.id);
  return DONE;
});

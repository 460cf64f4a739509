import { contract } from '../../../core/contract/index.ts';
import { jobState } from '../../services/jobs';
import { route } from '../../utils/route';

/** How far long work is, and what came of it. */
export default route(contract.jobs.read, async ({ account, params }) => jobState(params.id, account.id));

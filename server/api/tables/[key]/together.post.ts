import { contract } from '../../../../core/contract/index.ts';
import { togetherIn } from '../../../services/together';
import { route } from '../../../utils/route';

/** Begins to look for columns that come together. */
export default route(contract.tables.together, async ({ ws, begin, params }) => ({
  job: begin('together', (job) => togetherIn(ws, params.key, job)),
}));

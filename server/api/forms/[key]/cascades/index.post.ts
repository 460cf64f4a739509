import { contract } from '../../../../../core/contract/index.ts';
import { coverageOf } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

/** Begins to count every cascade of the draft, and to look for names that differ only in spelling. */
export default route(contract.forms.cascades.count, async ({ ws, begin, params }) => ({
  job: begin('coverage', (job) => coverageOf(ws, params.key, job)),
}));

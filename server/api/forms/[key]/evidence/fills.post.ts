import { contract } from '../../../../../core/contract/index.ts';
import { fillsUse } from '../../../../services/evidence';
import { route } from '../../../../utils/route';

/** Begins to count how well the fills of a form work. */
export default route(contract.evidence.fills, async ({ ws, begin, params, body }) => ({
  job: begin('fills', (job) => fillsUse(ws, params.key, body, job)),
}));

import { contract } from '../../../../../core/contract/index.ts';
import { runRehearsals } from '../../../../services/rehearsals';
import { route } from '../../../../utils/route';

/** Begins to run rehearsals. */
export default route(contract.rehearsals.run, async ({ ws, begin, params, body }) => ({
  job: begin('rehearsals', (job) => runRehearsals(ws, params.key, body, job)),
}));

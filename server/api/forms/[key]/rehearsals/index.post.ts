import { contract } from '../../../../../core/contract/index.ts';
import { addRehearsal } from '../../../../services/rehearsals';
import { route } from '../../../../utils/route';

/** Keeps a rehearsal. */
export default route(contract.rehearsals.add, async ({ ws, account, params, body }) => ({
  id: await addRehearsal(ws, account, params.key, body.rehearsal),
}));

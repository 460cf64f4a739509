import { contract } from '../../../../../core/contract/index.ts';
import { keepSituation } from '../../../../services/situations';
import { route } from '../../../../utils/route';

/** Keeps a situation. */
export default route(contract.situations.keep, async ({ ws, account, params, body }) => ({
  id: await keepSituation(ws, account, params.key, body.situation),
}));

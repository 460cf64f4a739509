import { contract } from '../../../../../core/contract/index.ts';
import { keepView } from '../../../../services/views';
import { route } from '../../../../utils/route';

/** Keeps a view. */
export default route(contract.views.keep, async ({ ws, account, params, body }) => ({ id: await keepView(ws, account, params.key, body) }));

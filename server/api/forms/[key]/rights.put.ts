import { contract } from '../../../../core/contract/index.ts';
import { changeRights } from '../../../services/rights';
import { route } from '../../../utils/route';

/** Says who may; it holds at once. */
export default route(contract.rights.change, ({ ws, params, body }) => changeRights(ws, params.key, body));

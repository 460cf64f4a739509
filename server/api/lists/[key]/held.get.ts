import { contract } from '../../../../core/contract/index.ts';
import { valueHeld } from '../../../services/lists';
import { route } from '../../../utils/route';

/** How many records hold a value of the list, and where. */
export default route(contract.lists.held, ({ ws, params, query: { value } }) => valueHeld(ws, params.key, value));

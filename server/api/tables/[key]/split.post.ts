import { contract } from '../../../../core/contract/index.ts';
import { splitTable } from '../../../services/splitting';
import { route } from '../../../utils/route';

/** Makes columns that come together tables of their own. */
export default route(contract.tables.split, ({ ws, account, params, body }) => splitTable(ws, account, params.key, body));

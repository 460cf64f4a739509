import { contract } from '../../../../core/contract/index.ts';
import { mergeRows } from '../../../services/repairs';
import { route } from '../../../utils/route';

/** Makes one row of several that mean the same. */
export default route(contract.tables.merge, ({ ws, account, params, body }) => mergeRows(ws, account, params.key, body));

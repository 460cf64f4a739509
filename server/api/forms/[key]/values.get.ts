import { contract } from '../../../../core/contract/index.ts';
import { valuesNamed } from '../../../services/views';
import { route } from '../../../utils/route';

/** What stands in a column that a view may name. */
export default route(contract.views.values, ({ ws, account, params, query }) => valuesNamed(ws, account, params.key, query));

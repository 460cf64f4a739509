import { contract } from '../../../../core/contract/index.ts';
import { daysOf } from '../../../services/views';
import { route } from '../../../utils/route';

/** The records of a view on the days of a span. */
export default route(contract.views.days, ({ ws, account, params, query }) => daysOf(ws, account, params.key, query));

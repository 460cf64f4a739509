import { contract } from '../../../../../../core/contract/index.ts';
import { relatedTo } from '../../../../../services/related';
import { idParam, route } from '../../../../../utils/route';

/** What belongs to a record, and its neighbours. */
export default route(contract.entries.related, ({ ws, account, params }) => relatedTo(ws, account, params.key, idParam(params)));

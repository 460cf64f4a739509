import { relatedTo } from '../../../../../services/related';
import { idParam, route } from '../../../../../utils/route';

/** What belongs to a record, and its neighbours. */
export default route({ may: 'signedIn' }, ({ ws, account, params }) => relatedTo(ws, account, params.key ?? '', idParam(params)));

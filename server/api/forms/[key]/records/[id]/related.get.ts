import { relatedTo } from '../../../../../services/related';
import { idParam, route } from '../../../../../utils/route';

/** What belongs to a record, and its neighbours. */
export default route({ may: 'signedIn' }, ({ ws, params }) => relatedTo(ws, params.key ?? '', idParam(params)));

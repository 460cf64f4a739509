import { recordHistory } from '../../../../../services/entries';
import { idParam, route } from '../../../../../utils/route';

/** What happened to a record, newest first. */
export default route({ may: 'signedIn' }, ({ ws, params }) => recordHistory(ws, params.key ?? '', idParam(params)));

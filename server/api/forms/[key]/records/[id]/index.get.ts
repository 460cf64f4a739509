import { openForEntry } from '../../../../../services/entries';
import { idParam, route } from '../../../../../utils/route';

/** Opens an existing record on the newest version. */
export default route({ may: 'signedIn' }, ({ ws, account, params }) => openForEntry(ws, account, params.key ?? '', idParam(params)));

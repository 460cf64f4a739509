import { openForEntry } from '../../../services/entries';
import { route } from '../../../utils/route';

/** Opens a new entry on the newest version. */
export default route({ may: 'signedIn' }, ({ ws, account, params }) => openForEntry(ws, account, params.key ?? '', null));

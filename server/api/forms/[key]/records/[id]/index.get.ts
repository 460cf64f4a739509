import { contract } from '../../../../../../core/contract/index.ts';
import { openForEntry } from '../../../../../services/opening';
import { idParam, route } from '../../../../../utils/route';

/** Opens an existing record on the newest version. */
export default route(contract.entries.open, ({ ws, account, params }) => openForEntry(ws, account, params.key, idParam(params)));

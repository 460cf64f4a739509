import { contract } from '../../../../../core/contract/index.ts';
import { saveEntry } from '../../../../services/entries';
import { route } from '../../../../utils/route';

/** Saves a new record. */
export default route(contract.entries.save, ({ ws, account, params, body }) => saveEntry(ws, account, params.key, null, body));

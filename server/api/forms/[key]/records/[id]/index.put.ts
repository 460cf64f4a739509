import { contract } from '../../../../../../core/contract/index.ts';
import { saveEntry } from '../../../../../services/entries';
import { idParam, route } from '../../../../../utils/route';

/** Saves an existing record, unless somebody else saved it meanwhile (409). */
export default route(contract.entries.change, ({ ws, account, params, body }) => saveEntry(ws, account, params.key, idParam(params), body));

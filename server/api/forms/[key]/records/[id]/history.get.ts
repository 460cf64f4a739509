import { contract } from '../../../../../../core/contract/index.ts';
import { recordHistory } from '../../../../../services/entries';
import { idParam, route } from '../../../../../utils/route';

/** What happened to a record, newest first. */
export default route(contract.entries.history, ({ ws, account, params }) => recordHistory(ws, account, params.key, idParam(params)));

import { contract } from '../../../../../core/contract/index.ts';
import { listRecords } from '../../../../services/views';
import { route } from '../../../../utils/route';

/** A page of a form's records. */
export default route(contract.entries.list, ({ ws, account, params, query }) => listRecords(ws, account, params.key, query));

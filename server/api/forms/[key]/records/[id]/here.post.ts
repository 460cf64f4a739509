import { contract } from '../../../../../../core/contract/index.ts';
import { hereIs } from '../../../../../services/presence';
import { idParam, route } from '../../../../../utils/route';

/** Says that a window has a record open; tells who else has. */
export default route(contract.entries.here, ({ ws, account, params, body }) => hereIs(ws, account, params.key, idParam(params), body));

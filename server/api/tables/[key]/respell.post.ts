import { contract } from '../../../../core/contract/index.ts';
import { respellValues } from '../../../services/repairs';
import { route } from '../../../utils/route';

/** Writes one spelling over others that mean the same. */
export default route(contract.tables.respell, ({ ws, account, params, body }) => respellValues(ws, account, params.key, body));

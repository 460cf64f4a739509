import { contract } from '../../../../../core/contract/index.ts';
import { situationsOf } from '../../../../services/situations';
import { route } from '../../../../utils/route';

/** The situations in which one tries a form. */
export default route(contract.situations.list, ({ ws, account, params }) => situationsOf(ws, account, params.key));

import { contract } from '../../../../../core/contract/index.ts';
import { viewsOf } from '../../../../services/views';
import { route } from '../../../../utils/route';

/** The views of a form’s records. */
export default route(contract.views.list, ({ ws, account, params }) => viewsOf(ws, account, params.key));

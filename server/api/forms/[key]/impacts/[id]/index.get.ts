import { contract } from '../../../../../../core/contract/index.ts';
import { impactPage } from '../../../../../services/impactView';
import { idParam, route } from '../../../../../utils/route';

/** A page of what was found, by field and kind. */
export default route(contract.impacts.page, ({ ws, params, query }) => impactPage(ws, params.key, idParam(params), query));

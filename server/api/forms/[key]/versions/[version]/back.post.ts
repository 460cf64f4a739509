import { contract } from '../../../../../../core/contract/index.ts';
import { goBack } from '../../../../../services/publishing';
import { idParam, route } from '../../../../../utils/route';

/** Publishes a version from before as the newest. */
export default route(contract.forms.goBack, ({ ws, account, params }) => goBack(ws, account, params.key, idParam(params, 'version')));

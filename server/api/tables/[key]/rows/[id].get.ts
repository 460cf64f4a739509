import { lookAt } from '../../../../services/look';
import { idParam, route } from '../../../../utils/route';

/** A row with all its columns, what it links to and what links to it. */
export default route({ may: 'signedIn' }, ({ ws, params }) => lookAt(ws, params.key ?? '', idParam(params)));

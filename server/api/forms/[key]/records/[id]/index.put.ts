import { saveEntry } from '../../../../../services/entries';
import { idParam, route } from '../../../../../utils/route';
import { saveBody } from '../../../../../utils/saveBody';

/** Saves an existing record, unless somebody else saved it meanwhile (409). */
export default route({ may: 'signedIn', body: saveBody }, ({ ws, account, params, body }) =>
  saveEntry(ws, account, params.key ?? '', idParam(params), body),
);

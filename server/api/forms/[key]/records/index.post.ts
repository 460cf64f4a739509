import { saveEntry } from '../../../../services/entries';
import { route } from '../../../../utils/route';
import { saveBody } from '../../../../utils/saveBody';

/** Saves a new record. */
export default route({ may: 'signedIn', body: saveBody }, ({ ws, account, params, body }) =>
  saveEntry(ws, account, params.key ?? '', null, body),
);

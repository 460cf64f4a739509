import { listRecords } from '../../../../services/entries';
import { gridQuery, route } from '../../../../utils/route';

/** A page of a form's records. */
export default route({ may: 'signedIn', query: gridQuery }, ({ ws, account, params, query }) =>
  listRecords(ws, account, params.key ?? '', query),
);

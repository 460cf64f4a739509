import { contract } from '../../../../core/contract/index.ts';
import { openForEntry } from '../../../services/opening';
import { openedWith } from '../../../utils/opened';
import { route } from '../../../utils/route';

/** Opens a new entry on the newest version, under a record and with values of the address where these are given. */
export default route(contract.entries.begin, ({ ws, account, params, query }) =>
  openForEntry(ws, account, params.key, null, openedWith(query)),
);

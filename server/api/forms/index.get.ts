import { contract } from '../../../core/contract/index.ts';
import { formSummaries } from '../../services/forms';
import { formsToEnter, maySeeAll } from '../../services/rights';
import { route } from '../../utils/route';

/** All forms with their published version, unpublished changes and problems; for those who enter, the published ones alone. */
export default route(contract.forms.list, ({ ws, account }) => (maySeeAll(account) ? formSummaries(ws) : formsToEnter(ws, account)));

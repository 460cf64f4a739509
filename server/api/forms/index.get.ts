import { contract } from '../../../core/contract/index.ts';
import { maySeeAll } from '../../services/access';
import { formSummaries, formsToEnter } from '../../services/forms';
import { route } from '../../utils/route';

/** All forms with their published version, unpublished changes and problems; for those who enter, the published ones alone. */
export default route(contract.forms.list, ({ ws, account }) => (maySeeAll(account) ? formSummaries(ws) : formsToEnter(ws)));

import { contract } from '../../../../../core/contract/index.ts';
import { rehearsalOf } from '../../../../services/rehearsals';
import { route } from '../../../../utils/route';

/** What was tried, written as a rehearsal. */
export default route(contract.rehearsals.keep, ({ ws, params, body }) => rehearsalOf(ws, params.key, body));

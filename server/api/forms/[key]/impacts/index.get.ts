import { contract } from '../../../../../core/contract/index.ts';
import { lastImpact } from '../../../../services/impactView';
import { route } from '../../../../utils/route';

/** What the draft was found to do to the records that exist; null when nobody has looked. */
export default route(contract.impacts.last, ({ ws, params }) => lastImpact(ws, params.key));

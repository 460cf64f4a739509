import { contract } from '../../../../../core/contract/index.ts';
import { keptLately } from '../../../../services/evidence';
import { route } from '../../../../utils/route';

/** In how many of the records saved lately what a field was given was kept. */
export default route(contract.evidence.kept, ({ ws, params }) => keptLately(ws, params.key));

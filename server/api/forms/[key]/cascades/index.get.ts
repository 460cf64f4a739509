import { coverageOf } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

/** Every cascade of the draft with its counts, and names that differ only in spelling. */
export default route({ may: 'design' }, ({ ws, params }) => coverageOf(ws, params.key ?? ''));

import { forgetBackfill } from '../../../../../services/backfills';
import { idParam, route } from '../../../../../utils/route';

/** Forgets a preview that was not applied. */
export default route({ may: 'design' }, ({ ws, params }) => forgetBackfill(ws, params.key ?? '', idParam(params)));

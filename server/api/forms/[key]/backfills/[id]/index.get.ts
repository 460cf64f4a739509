import { contract } from '../../../../../../core/contract/index.ts';
import { backfillPage } from '../../../../../services/backfillView';
import { idParam, route } from '../../../../../utils/route';

/** A page of what a backfill proposes or did. */
export default route(contract.backfills.page, ({ ws, params, query: asked }) => backfillPage(ws, params.key, idParam(params), asked));

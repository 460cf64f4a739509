import { contract } from '../../../../../core/contract/index.ts';
import { backfillOffer } from '../../../../services/backfillView';
import { route } from '../../../../utils/route';

/** What the form can give to records that exist, and which backfills there have been. */
export default route(contract.backfills.offer, ({ ws, params }) => backfillOffer(ws, params.key));

import { contract } from '../../../../../core/contract/index.ts';
import { cascadeWhole } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

/** A whole cascade for a picture of it: its levels from the top, as many as can be drawn. */
export default route(contract.forms.cascades.whole, ({ ws, params, query: asked }) => cascadeWhole(ws, params.key, asked.cascade));

import { contract } from '../../../../../core/contract/index.ts';
import { cascadeLevelRows } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

/** Rows of one level, with their children counted. */
export default route(contract.forms.cascades.rows, ({ ws, params, query: asked }) => cascadeLevelRows(ws, params.key, asked));

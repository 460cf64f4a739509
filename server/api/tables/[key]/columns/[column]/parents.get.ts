import { contract } from '../../../../../../core/contract/index.ts';
import { childrenByParent } from '../../../../../services/related';
import { route } from '../../../../../utils/route';

/** The parents that a link column leads to, each with the number of its children. */
export default route(contract.tables.parents, ({ ws, params, query: asked }) => childrenByParent(ws, params.key, params.column, asked));

import { contract } from '../../../../../../core/contract/index.ts';
import { filledIn } from '../../../../../services/columnValues';
import { route } from '../../../../../utils/route';

/** How many rows have a value in a column. */
export default route(contract.tables.filled, ({ ws, params }) => filledIn(ws, params.key, params.column));

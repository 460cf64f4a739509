import { contract } from '../../../../../core/contract/index.ts';
import { gridWindow } from '../../../../services/tables';
import { route } from '../../../../utils/route';

/** A window of a table, searched and sorted by the database. */
export default route(contract.tables.rows, ({ ws, params, query }) => gridWindow(ws, params.key, query));

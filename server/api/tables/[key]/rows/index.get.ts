import { gridWindow } from '../../../../services/tables';
import { gridQuery, route } from '../../../../utils/route';

/** A window of a table, searched and sorted by the database. */
export default route({ may: 'design', query: gridQuery }, ({ ws, params, query }) => gridWindow(ws, params.key ?? '', query));

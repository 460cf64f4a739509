import { contract } from '../../../../core/contract/index.ts';
import { findRows } from '../../../services/tables';
import { route } from '../../../utils/route';

/** Rows found by a text. */
export default route(contract.tables.find, ({ ws, params, query }) => findRows(ws, params.key, query));

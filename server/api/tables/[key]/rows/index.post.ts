import { contract } from '../../../../../core/contract/index.ts';
import { addRow } from '../../../../services/tables';
import { route } from '../../../../utils/route';

/** Adds a row. */
export default route(contract.tables.addRow, ({ ws, account, params, body: { values } }) => addRow(ws, account, params.key, values));

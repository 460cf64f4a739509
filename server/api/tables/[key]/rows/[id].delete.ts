import { contract } from '../../../../../core/contract/index.ts';
import { removeRow } from '../../../../services/tables';
import { idParam, route } from '../../../../utils/route';

/** Deletes a row; refused with the list of rows that link to it. */
export default route(contract.tables.removeRow, ({ ws, account, params }) => removeRow(ws, account, params.key, idParam(params)));

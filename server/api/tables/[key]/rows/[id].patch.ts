import { contract } from '../../../../../core/contract/index.ts';
import { changeRow } from '../../../../services/tables';
import { idParam, route } from '../../../../utils/route';

/** Changes a row if it still has the revision the person saw. */
export default route(contract.tables.changeRow, ({ ws, account, params, body: { revision, values } }) =>
  changeRow(ws, account, params.key, idParam(params), revision, values),
);

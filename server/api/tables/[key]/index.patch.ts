import { contract } from '../../../../core/contract/index.ts';
import { DONE } from '../../../../core/contract/values.ts';
import { renameTable } from '../../../services/tables';
import { route } from '../../../utils/route';

/** Changes a table's label or shown column. */
export default route(contract.tables.change, async ({ ws, params, body: change }) => {
  await renameTable(ws, params.key, change);
  return DONE;
});

import { contract } from '../../../../core/contract/index.ts';
import { DONE } from '../../../../core/contract/values.ts';
import { removeTable } from '../../../services/tables';
import { route } from '../../../utils/route';

/** Deletes a table and its rows; refused while something uses it. */
export default route(contract.tables.remove, async ({ ws, params }) => {
  await removeTable(ws, params.key);
  return DONE;
});

import { contract } from '../../../../../core/contract/index.ts';
import { DONE } from '../../../../../core/contract/values.ts';
import { removeColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

/** Deletes a column; refused while something uses it. */
export default route(contract.tables.removeColumn, async ({ ws, params }) => {
  await removeColumn(ws, params.key, params.column);
  return DONE;
});

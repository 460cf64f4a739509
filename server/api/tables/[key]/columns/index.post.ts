import { contract } from '../../../../../core/contract/index.ts';
import { DONE } from '../../../../../core/contract/values.ts';
import { addColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

/** Adds a column. */
export default route(contract.tables.addColumn, async ({ ws, params, body }) => {
  await addColumn(ws, params.key, body);
  return DONE;
});

import { contract } from '../../../../../core/contract/index.ts';
import { DONE } from '../../../../../core/contract/values.ts';
import { relabelColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

/** Gives a column another label. */
export default route(contract.tables.relabelColumn, async ({ ws, params, body: { label } }) => {
  await relabelColumn(ws, params.key, params.column, label);
  return DONE;
});

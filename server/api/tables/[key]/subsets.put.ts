import { contract } from '../../../../core/contract/index.ts';
import { DONE } from '../../../../core/contract/values.ts';
import { saveSubsets } from '../../../services/structure';
import { route } from '../../../utils/route';

/** Sets the named conditions of a table. */
export default route(contract.tables.subsets, async ({ ws, params, body: { subsets } }) => {
  await saveSubsets(ws, params.key, subsets);
  return DONE;
});

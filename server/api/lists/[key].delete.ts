import { contract } from '../../../core/contract/index.ts';
import { DONE } from '../../../core/contract/values.ts';
import { removeList } from '../../services/lists';
import { route } from '../../utils/route';

/** Deletes an option list; refused while a form offers it. */
export default route(contract.lists.remove, async ({ ws, params }) => {
  await removeList(ws, params.key);
  return DONE;
});

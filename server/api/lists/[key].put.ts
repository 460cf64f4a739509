import { contract } from '../../../core/contract/index.ts';
import { saveList } from '../../services/lists';
import { route } from '../../utils/route';

/** Saves an option list as a whole. */
export default route(contract.lists.save, async ({ ws, account, params, body: { list, revision } }) => ({
  revision: await saveList(ws, account, { ...list, key: params.key }, revision),
}));

import { contract } from '../../../core/contract/index.ts';
import { createList } from '../../services/lists';
import { route } from '../../utils/route';

/** Makes an option list, empty or from a pasted outline. */
export default route(contract.lists.make, async ({ ws, account, body: { label, outline } }) => ({
  key: await createList(ws, account, label, outline),
}));

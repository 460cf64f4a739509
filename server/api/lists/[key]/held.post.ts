import { contract } from '../../../../core/contract/index.ts';
import { changeHeld } from '../../../services/lists';
import { route } from '../../../utils/route';

/** Writes a changed value of the list into the records that hold the old one. */
export default route(contract.lists.changeHeld, async ({ ws, account, params, body: { from, to } }) => ({
  changed: await changeHeld(ws, account, params.key, from, to),
}));

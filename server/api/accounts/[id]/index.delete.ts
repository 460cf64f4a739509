import { contract } from '../../../../core/contract/index.ts';
import { removePerson } from '../../../services/people';
import { idParam, route } from '../../../utils/route';

/** Removes an account that has done nothing yet. */
export default route(contract.people.remove, async ({ ws, params }) => {
  await removePerson(ws, idParam(params));
  return { ok: true as const };
});

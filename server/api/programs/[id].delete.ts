import { contract } from '../../../core/contract/index.ts';
import { removeProgram } from '../../services/programs';
import { idParam, route } from '../../utils/route';

/** Ends a token. */
export default route(contract.programs.remove, async ({ ws, params }) => {
  await removeProgram(ws, idParam(params));
  return { ok: true as const };
});

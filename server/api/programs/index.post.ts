import { contract } from '../../../core/contract/index.ts';
import { addProgram } from '../../services/programs';
import { route } from '../../utils/route';

/** Makes a token, which is told once. */
export default route(contract.programs.add, ({ ws, account, body }) => addProgram(ws, account, body));

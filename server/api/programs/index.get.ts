import { contract } from '../../../core/contract/index.ts';
import { programLines } from '../../services/programs';
import { route } from '../../utils/route';

/** The tokens of programs. */
export default route(contract.programs.list, ({ ws }) => programLines(ws));

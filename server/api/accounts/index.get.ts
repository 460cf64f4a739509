import { contract } from '../../../core/contract/index.ts';
import { accountLines } from '../../services/people';
import { route } from '../../utils/route';

/** All accounts of people. */
export default route(contract.people.list, ({ ws }) => accountLines(ws));

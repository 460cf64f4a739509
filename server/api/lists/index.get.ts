import { contract } from '../../../core/contract/index.ts';
import { listAnswers } from '../../services/lists';
import { route } from '../../utils/route';

/** All option lists with where they are used. */
export default route(contract.lists.list, ({ ws }) => listAnswers(ws));

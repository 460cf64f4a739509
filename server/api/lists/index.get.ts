import { listAnswers } from '../../services/lists';
import { route } from '../../utils/route';

/** All option lists with where they are used. */
export default route({ may: 'design' }, ({ ws }) => listAnswers(ws));

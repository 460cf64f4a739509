import { formSummaries } from '../../services/forms';
import { route } from '../../utils/route';

/** All forms with their published version, unpublished changes and problems. */
export default route({ may: 'signedIn' }, ({ ws }) => formSummaries(ws));

import { publishedVersions } from '../../../services/formulas';
import { route } from '../../../utils/route';

/** The published versions of a form, newest first, whole: what a formula was before is read from them. */
export default route({ may: 'design' }, ({ ws, params }) => publishedVersions(ws, params.key ?? ''));

import { contract } from '../../../../../core/contract/index.ts';
import { publishedVersions } from '../../../../services/formulas';
import { route } from '../../../../utils/route';

/** The published versions of a form, newest first, whole: what a formula was before is read from them. */
export default route(contract.forms.versions, ({ ws, params }) => publishedVersions(ws, params.key));

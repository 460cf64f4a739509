import { contract } from '../../../core/contract/index.ts';
import { rulesOfForms } from '../../services/forms';
import { route } from '../../utils/route';

/** The rules of all drafts, each with its form. */
export default route(contract.forms.rules, ({ ws }) => rulesOfForms(ws));

import { contract } from '../../../../core/contract/index.ts';
import { saveDraft } from '../../../services/forms';
import { route } from '../../../utils/route';

/** Saves the draft, unless somebody else saved it meanwhile (409). */
export default route(contract.forms.saveDraft, async ({ ws, account, params, body: { draft, revision } }) => ({
  revision: await saveDraft(ws, account, params.key, draft, revision),
}));

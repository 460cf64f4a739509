import { contract } from '../../../../core/contract/index.ts';
import { copyForm } from '../../../services/forms';
import { route } from '../../../utils/route';

/** Makes a form with the same draft under another name. */
export default route(contract.forms.copy, async ({ ws, account, params, body }) => ({
  key: await copyForm(ws, account, params.key, body.label),
}));

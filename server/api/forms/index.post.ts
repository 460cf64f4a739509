import { contract } from '../../../core/contract/index.ts';
import { createForm } from '../../services/forms';
import { route } from '../../utils/route';

/** Makes a form, saving into a table that exists or into a new one. */
export default route(contract.forms.make, async ({ ws, account, body: { label, table, fields } }) => ({
  key: await createForm(ws, account, label, table, fields),
}));

import { contract } from '../../../../core/contract/index.ts';
import { publish } from '../../../services/publishing';
import { requireGreen } from '../../../services/rehearsals';
import { route } from '../../../utils/route';

/** Publishes the draft as a new version. */
export default route(contract.forms.publish, async ({ ws, account, params, body: { revision, note } }) => {
  await requireGreen(ws, params.key);
  return { version: await publish(ws, account, params.key, revision, note) };
});

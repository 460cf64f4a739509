import { removeList } from '../../services/lists';
import { route } from '../../utils/route';

/** Deletes an option list; refused while a form offers it. */
export default route({ may: 'design' }, async ({ ws, params }) => {
  await removeList(ws, params.key ?? '');
  return { ok: true };
});

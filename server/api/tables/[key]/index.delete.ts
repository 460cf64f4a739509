import { removeTable } from '../../../services/tables';
import { route } from '../../../utils/route';

/** Deletes a table and its rows; refused while something uses it. */
export default route({ may: 'design' }, async ({ ws, params }) => {
  await removeTable(ws, params.key ?? '');
  return { ok: true };
});

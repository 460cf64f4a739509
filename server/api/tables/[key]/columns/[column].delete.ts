import { removeColumn } from '../../../../services/structure';
import { route } from '../../../../utils/route';

/** Deletes a column; refused while something uses it. */
export default route({ may: 'design' }, async ({ ws, params }) => {
  await removeColumn(ws, params.key ?? '', params.column ?? '');
  return { ok: true };
});

import { MAX_IMPORT_BYTES, checkImport } from '../../services/imports';
import { importBody } from '../../utils/importBody';
import { route } from '../../utils/route';

/** Says what does not convert and which links match no row. Writes nothing. */
export default route({ may: 'design', body: importBody, maxBytes: MAX_IMPORT_BYTES }, ({ ws, body: { plan, text } }) =>
  checkImport(ws, plan, text),
);

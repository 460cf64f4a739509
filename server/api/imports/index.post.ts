import { MAX_IMPORT_BYTES, runImport } from '../../services/imports';
import { importBody } from '../../utils/importBody';
import { route } from '../../utils/route';

/** Imports a CSV file into a new table: all of it or nothing. */
export default route({ may: 'design', body: importBody, maxBytes: MAX_IMPORT_BYTES }, ({ ws, account, body: { plan, text } }) =>
  runImport(ws, account, plan, text),
);

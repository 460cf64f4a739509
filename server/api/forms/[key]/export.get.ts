import { contract } from '../../../../core/contract/index.ts';
import { exportCsv, exportXlsx } from '../../../services/exports';
import { recordsToExport } from '../../../services/records';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** The records of a form as a file to keep: streamed, so that their number does not matter. */
export default route(contract.entries.export, async ({ event, ws, account, params, query: { as, view, search } }) => {
  const taken = await recordsToExport(ws, account, params.key, view, search);
  return sendFile(event, params.key, as, as === 'csv' ? exportCsv(ws, taken) : await exportXlsx(ws, taken));
});

import { contract } from '../../../../core/contract/index.ts';
import { exportCsv, exportJson, exportXlsx, wholeTable } from '../../../services/exports';
import { exportPackage } from '../../../services/packages';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** A table as a file to keep: streamed, so that its size does not matter. */
export default route(contract.tables.exportOne, async ({ event, ws, params, query: { as } }) => {
  const whole = await wholeTable(ws, params.key);
  const { table } = whole;
  const pieces =
    as === 'csv'
      ? exportCsv(ws, whole)
      : as === 'json'
        ? exportJson(ws, whole)
        : as === 'xlsx'
          ? await exportXlsx(ws, whole)
          : exportPackage(ws, [table.key]);
  return sendFile(event, table.key, as, pieces);
});

import { contract } from '../../../../core/contract/index.ts';
import { Readable } from 'node:stream';
import { sendStream, setHeader } from 'h3';
import { exportCsv, exportJson, exportXlsx } from '../../../services/exports';
import { exportPackage } from '../../../services/packages';
import { route } from '../../../utils/route';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  package: 'application/zip',
};

/** A table as a file to keep: streamed, so that its size does not matter. */
export default route(contract.tables.exportOne, async ({ event, ws, params, query: { as } }) => {
  const table = await ws.modelTable(params.key);
  const pieces =
    as === 'csv'
      ? exportCsv(ws, table.key)
      : as === 'json'
        ? exportJson(ws, table.key)
        : as === 'xlsx'
          ? await exportXlsx(ws, table.key)
          : exportPackage(ws, [table.key]);
  setHeader(event, 'content-type', TYPES[as]);
  setHeader(event, 'content-disposition', `attachment; filename="${table.key}.${as === 'package' ? 'zip' : as}"`);
  return sendStream(event, Readable.from(pieces));
});

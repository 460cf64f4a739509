import { contract } from '../../../core/contract/index.ts';
import { Readable } from 'node:stream';
import { sendStream, setHeader } from 'h3';
import { exportPackage } from '../../services/packages';
import { route } from '../../utils/route';

/** All tables as one data package. */
export default route(contract.tables.exportAll, async ({ event, ws }) => {
  setHeader(event, 'content-type', 'application/zip');
  setHeader(event, 'content-disposition', 'attachment; filename="tables.zip"');
  return sendStream(
    event,
    Readable.from(
      exportPackage(
        ws,
        (await ws.modelTables()).map((t) => t.key),
      ),
    ),
  );
});

import { contract } from '../../../../core/contract/index.ts';
import { exported } from '../../../services/exported';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** A table as a file to keep: streamed, so that its size does not matter. */
export default route(contract.tables.exportOne, async ({ event, ws, params: { key }, query: { as } }) =>
  sendFile(event, key, as, await exported(ws, { what: 'table', table: key, as })),
);

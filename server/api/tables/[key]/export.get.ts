import { contract } from '../../../../core/contract/index.ts';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** A table as a file to keep: streamed, so that its size does not matter. */
export default route(contract.tables.exportOne, ({ event, ws, params: { key }, query: { as } }) =>
  sendFile(event, ws, { what: 'table', table: key, as }, key, as),
);

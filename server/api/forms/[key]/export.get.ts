import { contract } from '../../../../core/contract/index.ts';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** The records of a form as a file to keep: streamed, so that their number does not matter. */
export default route(contract.entries.export, ({ event, ws, account, params: { key }, query: { as, view, search } }) =>
  sendFile(event, ws, { what: 'records', account, form: key, view, search, as }, key, as),
);

import { contract } from '../../../../core/contract/index.ts';
import { exported } from '../../../services/exported';
import { sendFile } from '../../../utils/sendFile';
import { route } from '../../../utils/route';

/** The records of a form as a file to keep: streamed, so that their number does not matter. */
export default route(contract.entries.export, async ({ event, ws, account, params: { key }, query: { as, view, search } }) =>
  sendFile(event, key, as, await exported(ws, { what: 'records', account, form: key, view, search, as })),
);

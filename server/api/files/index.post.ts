import { contract } from '../../../core/contract/index.ts';
import { MAX_FILE_BYTES, storeFile } from '../../services/files';
import { readLimited } from '../../utils/body';
import { route } from '../../utils/route';

/** Takes a file in, as the body of the request; gives its number, name, kind by content, and size. */
export default route(contract.files.store, async ({ event, ws, account, query: { name } }) => {
  return storeFile(ws, account, name, await readLimited(event, MAX_FILE_BYTES));
});

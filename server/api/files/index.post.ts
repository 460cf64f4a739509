import { z } from 'zod';
import { MAX_FILE_BYTES, storeFile } from '../../services/files';
import { readLimited } from '../../utils/body';
import { route } from '../../utils/route';

const query = z.object({ name: z.string().min(1).max(300) });

/** Takes a file in, as the body of the request; gives its number, name, kind by content, and size. */
export default route({ may: 'signedIn', query }, async ({ event, ws, account, query: { name } }) => {
  return storeFile(ws, account, name, await readLimited(event, MAX_FILE_BYTES));
});

import { z } from 'zod';
import { readRawBody } from 'h3';
import { Refused } from '../../services/errors';
import { MAX_FILE_BYTES, storeFile } from '../../services/files';
import { route } from '../../utils/route';

const query = z.object({ name: z.string().min(1).max(300) });

/** Takes a file in, as the body of the request; gives its number, name, kind by content, and size. */
export default route({ may: 'signedIn', query }, async ({ event, ws, account, query: { name } }) => {
  if (Number(getHeader(event, 'content-length') ?? 0) > MAX_FILE_BYTES)
    throw new Refused(413, 'tooMuch', `A file may have at most ${MAX_FILE_BYTES / 1e6} MB.`);
  const content = await readRawBody(event, false);
  return storeFile(ws, account, name, content ?? Buffer.alloc(0));
});

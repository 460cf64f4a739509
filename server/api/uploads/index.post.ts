import { contract } from '../../../core/contract/index.ts';
import { getHeader } from 'h3';
import { Refused } from '../../services/errors';
import { MAX_IMPORT_BYTES } from '../../services/imports';
import { takeUpload } from '../../services/uploads';
import { leaveUnread } from '../../utils/body';
import { route } from '../../utils/route';

/** Takes in a file to be imported, as the body of the request, straight to disk. */
export default route(contract.imports.upload, ({ event, ws, account, query: { name } }) => {
  const size = Number(getHeader(event, 'content-length') ?? 0);
  if (size > MAX_IMPORT_BYTES) {
    leaveUnread(event);
    throw new Refused(413, 'tooMuch', `A file may have at most ${MAX_IMPORT_BYTES / 1e9} GB.`);
  }
  return takeUpload(ws, account.id, name, event.node.req);
});

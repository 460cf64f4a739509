import { contract } from '../../../core/contract/index.ts';
import { Readable } from 'node:stream';
import { sendStream, setHeader } from 'h3';
import { workspaceArchive } from '../../services/archiveOut';
import { route } from '../../utils/route';

/** The whole workspace as one archive of open files. */
export default route(contract.archives.out, ({ event, ws }) => {
  setHeader(event, 'content-type', 'application/zip');
  setHeader(event, 'content-disposition', 'attachment; filename="workspace.zip"');
  return sendStream(event, Readable.from(workspaceArchive(ws)));
});

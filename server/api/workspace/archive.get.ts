import { contract } from '../../../core/contract/index.ts';
import { exported } from '../../services/exported';
import { sendFile } from '../../utils/sendFile';
import { route } from '../../utils/route';

/** The whole workspace as one archive of open files. */
export default route(contract.archives.out, async ({ event, ws }) =>
  sendFile(event, 'workspace', 'package', await exported(ws, { what: 'workspace' })),
);

import { contract } from '../../../core/contract/index.ts';
import { sendFile } from '../../utils/sendFile';
import { route } from '../../utils/route';

/** The whole workspace as one archive of open files. */
export default route(contract.archives.out, ({ event, ws }) => sendFile(event, ws, { what: 'workspace' }, 'workspace', 'package'));

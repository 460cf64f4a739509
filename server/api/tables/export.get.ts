import { contract } from '../../../core/contract/index.ts';
import { exported } from '../../services/exported';
import { sendFile } from '../../utils/sendFile';
import { route } from '../../utils/route';

/** All tables as one data package. */
export default route(contract.tables.exportAll, async ({ event, ws }) =>
  sendFile(event, 'tables', 'package', await exported(ws, { what: 'tables' })),
);

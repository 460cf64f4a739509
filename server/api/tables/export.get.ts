import { contract } from '../../../core/contract/index.ts';
import { sendFile } from '../../utils/sendFile';
import { route } from '../../utils/route';

/** All tables as one data package. */
export default route(contract.tables.exportAll, ({ event, ws }) => sendFile(event, ws, { what: 'tables' }, 'tables', 'package'));

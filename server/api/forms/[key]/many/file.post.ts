import { contract } from '../../../../../core/contract/index.ts';
import { readRows } from '../../../../services/manyRows';
import { route } from '../../../../utils/route';

/** Reads a sheet into rows of texts. */
export default route(contract.many.file, ({ event, ws, account, query: { name } }) => readRows(ws, account, name, event.node.req));

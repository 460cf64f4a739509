import { contract } from '../../../core/contract/index.ts';
import { makeTable } from '../../services/structure';
import { route } from '../../utils/route';

/** A table made by hand. */
export default route(contract.tables.make, async ({ ws, body }) => ({ key: await makeTable(ws, body) }));

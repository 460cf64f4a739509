import { contract } from '../../../core/contract/index.ts';
import { tableSummaries } from '../../services/tables';
import { route } from '../../utils/route';

/** All tables with their columns, counts and children. */
export default route(contract.tables.list, ({ ws }) => tableSummaries(ws));

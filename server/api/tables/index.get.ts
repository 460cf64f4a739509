import { tableSummaries } from '../../services/tables';
import { route } from '../../utils/route';

/** All tables with their columns, counts and children. */
export default route({ may: 'design' }, ({ ws }) => tableSummaries(ws));

import { contract } from '../../../core/contract/index.ts';
import { ZONES, workspaceSettings } from '../../services/settings';
import { route } from '../../utils/route';

/** The settings of the workspace. */
export default route(contract.workspace.read, async ({ ws }) => ({ ...(await workspaceSettings(ws)), zones: [...ZONES] }));

import { contract } from '../../../core/contract/index.ts';
import { changeSettings } from '../../services/settings';
import { route } from '../../utils/route';

/** Changes the settings of the workspace. */
export default route(contract.workspace.change, ({ ws, body }) => changeSettings(ws, body));

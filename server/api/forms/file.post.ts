import { contract } from '../../../core/contract/index.ts';
import { bringInForm } from '../../services/formFiles';
import { route } from '../../utils/route';

/** Makes a form from a file, as a draft. */
export default route(contract.forms.bringIn, ({ ws, account, body: { file } }) => bringInForm(ws, account, file));

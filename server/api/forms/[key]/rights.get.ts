import { contract } from '../../../../core/contract/index.ts';
import { formRights } from '../../../services/rights';
import { route } from '../../../utils/route';

/** Who may do what with the records of a form. */
export default route(contract.rights.read, ({ ws, params }) => formRights(ws, params.key));

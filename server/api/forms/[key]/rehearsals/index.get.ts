import { contract } from '../../../../../core/contract/index.ts';
import { rehearsalsOf } from '../../../../services/rehearsals';
import { route } from '../../../../utils/route';

/** The rehearsals of a form. */
export default route(contract.rehearsals.list, ({ ws, params }) => rehearsalsOf(ws, params.key));

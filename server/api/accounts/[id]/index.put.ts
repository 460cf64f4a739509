import { contract } from '../../../../core/contract/index.ts';
import { changePerson } from '../../../services/people';
import { idParam, route } from '../../../utils/route';

/** Changes an account. */
export default route(contract.people.change, ({ ws, account, params, body }) => changePerson(ws, account, idParam(params), body));

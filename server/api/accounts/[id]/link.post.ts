import { contract } from '../../../../core/contract/index.ts';
import { personLink } from '../../../services/people';
import { idParam, route } from '../../../utils/route';

/** A new one-time link for an account. */
export default route(contract.people.link, ({ ws, account, params }) => personLink(ws, account, idParam(params)));

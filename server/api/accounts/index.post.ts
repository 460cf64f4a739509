import { contract } from '../../../core/contract/index.ts';
import { addPerson } from '../../services/people';
import { route } from '../../utils/route';

/** Adds an account, with a one-time link. */
export default route(contract.people.add, ({ ws, account, body }) => addPerson(ws, account, body));

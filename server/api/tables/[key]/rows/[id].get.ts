import { contract } from '../../../../../core/contract/index.ts';
import { lookAt } from '../../../../services/look';
import { idParam, route } from '../../../../utils/route';

/** A row with all its columns, what it links to and what links to it; for those who enter, a row that a form offers them. */
export default route(contract.tables.look, ({ ws, account, params }) => lookAt(ws, account, params.key, idParam(params)));

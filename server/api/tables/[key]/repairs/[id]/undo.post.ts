import { contract } from '../../../../../../core/contract/index.ts';
import { undoRepair } from '../../../../../services/repairs';
import { idParam, route } from '../../../../../utils/route';

/** Puts back what a repair of spellings changed. */
export default route(contract.tables.undoRepair, ({ ws, account, params }) => undoRepair(ws, account, params.key, idParam(params)));

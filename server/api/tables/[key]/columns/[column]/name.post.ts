import { contract } from '../../../../../../core/contract/index.ts';
import { renameColumn } from '../../../../../services/renaming';
import { route } from '../../../../../utils/route';

/** Gives a column another name, wherever it is named. */
export default route(contract.tables.renameColumn, async ({ ws, account, params, body }) => ({
  forms: await renameColumn(ws, account, params.key, params.column, body.name),
}));

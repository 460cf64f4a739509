import { contract } from '../../../../core/contract/index.ts';
import { renameTable } from '../../../services/renaming';
import { route } from '../../../utils/route';

/** Gives a table another name, wherever it is named. */
export default route(contract.tables.rename, async ({ ws, account, params, body }) => ({
  forms: await renameTable(ws, account, params.key, body.name),
}));

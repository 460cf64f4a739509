import { contract } from '../../../../core/contract/index.ts';
import { respellValues } from '../../../services/coverage';
import { route } from '../../../utils/route';

/** Writes one spelling over others that mean the same. */
export default route(contract.tables.respell, async ({ ws, account, params, body: { column, from, to } }) => ({
  changed: await respellValues(ws, account, params.key, column, from, to),
}));

import { contract } from '../../../../core/contract/index.ts';
import { mergeRows } from '../../../services/coverage';
import { route } from '../../../utils/route';

/** Makes one row of two that mean the same. */
export default route(contract.tables.merge, ({ ws, account, params, body: { keep, drop } }) =>
  mergeRows(ws, account, params.key, keep, drop),
);

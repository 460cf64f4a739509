import { contract } from '../../../../../../core/contract/index.ts';
import { changeColumnType, previewType } from '../../../../../services/structure';
import { route } from '../../../../../utils/route';

/** What another type makes of a column's values, and the change itself. */
export default route(contract.tables.retypeColumn, ({ ws, params, body: { preview, mayLose, ...change } }) =>
  preview ? previewType(ws, params.key, params.column, change) : changeColumnType(ws, params.key, params.column, change, mayLose),
);

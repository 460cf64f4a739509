import { contract } from '../../../../../../core/contract/index.ts';
import { valuesOfColumn } from '../../../../../services/columnValues';
import { route } from '../../../../../utils/route';

/** The values that stand in a column, for choosing a fixed one. */
export default route(contract.tables.columnValues, ({ ws, params, query }) => valuesOfColumn(ws, params.key, params.column, query));

import { contract } from '../../../../core/contract/index.ts';
import { createLinesTable } from '../../../services/structure';
import { route } from '../../../utils/route';

/** Makes a child table for lines of a form: with the link to the record and the place of the line. */
export default route(contract.forms.addLines, ({ ws, params, body: { label } }) => createLinesTable(ws, params.key, label));

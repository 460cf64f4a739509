import { contract } from '../../../core/contract/index.ts';
import { usesOf } from '../../services/formulas';
import { route } from '../../utils/route';

/** Formulas of all forms that use any of these names. */
export default route(contract.forms.formulas, ({ ws, query: asked }) => usesOf(ws, asked.names));

import { contract } from '../../../core/contract/index.ts';
import { formJsonSchema } from '../../../core/contract/openapi.ts';
import { openRoute } from '../../utils/route';

let schema: ReturnType<typeof formJsonSchema> | null = null;

/** The JSON Schema of a form's definition. */
export default openRoute(contract.about.formSchema, () => Promise.resolve((schema ??= formJsonSchema())));

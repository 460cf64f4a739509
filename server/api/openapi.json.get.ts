import { contract } from '../../core/contract/index.ts';
import { openApi } from '../../core/contract/openapi.ts';
import { openRoute } from '../utils/route';

let description: ReturnType<typeof openApi> | null = null;

/** What every route takes and answers, for programs and for those who write them. */
export default openRoute(contract.about.openApi, () => Promise.resolve((description ??= openApi())));

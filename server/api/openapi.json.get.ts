import { contract } from '../../core/contract/index.ts';
import { openApiInSteps } from '../../core/contract/openapi.ts';
import { Pace } from '../services/pace';
import { openRoute } from '../utils/route';

let description: Promise<Readonly<Record<string, unknown>>> | null = null;

/** What every route takes and answers, for programs and for those who write them. */
export default openRoute(contract.about.openApi, () => (description ??= new Pace().through(openApiInSteps())));

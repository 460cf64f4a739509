import { contract } from '../../../../../../core/contract/index.ts';
import { exported } from '../../../../../services/exported';
import { impactView } from '../../../../../services/impactView';
import { idParam, route } from '../../../../../utils/route';
import { sendFile } from '../../../../../utils/sendFile';

/** What was found, as CSV: streamed, so that its length does not matter. */
export default route(contract.impacts.export, async ({ event, ws, params }) => {
  const { id } = await impactView(ws, params.key, idParam(params));
  return sendFile(event, `${params.key}-impact`, 'csv', await exported(ws, { what: 'impact', form: params.key, id }));
});

import { Readable } from 'node:stream';
import { contract } from '../../../../core/contract/index.ts';
import { formFile } from '../../../services/formFiles';
import { route } from '../../../utils/route';
import { sendFile } from '../../../utils/sendFile';

/** A form as a JSON file to keep. */
export default route(contract.forms.file, async ({ event, ws, params, query: { version } }) => {
  const file = await formFile(ws, params.key, version ?? null);
  const name = version === undefined ? params.key : `${params.key}-${version}`;
  return sendFile(event, name, 'json', Readable.from([`${JSON.stringify(file, null, 2)}\n`]));
});

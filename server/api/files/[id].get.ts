import { setHeader } from 'h3';
import { readStored } from '../../services/files';
import { route } from '../../utils/route';

/** A stored file, always as an attachment and never as something the browser runs. */
export default route({ may: 'signedIn' }, async ({ event, ws, params }) => {
  const { name, content } = await readStored(ws, Number(params.id));
  setHeader(event, 'content-type', 'application/octet-stream');
  setHeader(event, 'x-content-type-options', 'nosniff');
  setHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name)}`);
  return content;
});

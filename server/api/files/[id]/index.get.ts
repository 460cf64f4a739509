import { contract } from '../../../../core/contract/index.ts';
import { setHeader } from 'h3';
import { maySeeFile } from '../../../services/access';
import { notFound } from '../../../services/errors';
import { readStored } from '../../../services/files';
import { idParam, route } from '../../../utils/route';

/** A stored file, always as an attachment and never as something the browser runs; only for those who see a record that holds it. */
export default route(contract.files.read, async ({ event, ws, account, params }) => {
  const id = idParam(params);
  // whether there is such a file is told only to those who may have it
  if (!(await maySeeFile(ws, account, id))) throw notFound('This file');
  const { name, content } = await readStored(ws, id);
  setHeader(event, 'content-type', 'application/octet-stream');
  setHeader(event, 'x-content-type-options', 'nosniff');
  setHeader(event, 'content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name)}`);
  return content;
});

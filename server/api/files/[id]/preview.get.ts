import { contract } from '../../../../core/contract/index.ts';
import { setHeader } from 'h3';
import { maySeeFile } from '../../../services/access';
import { notFound } from '../../../services/errors';
import { previewOf } from '../../../services/files';
import { idParam, route } from '../../../utils/route';

/** A picture or a PDF to be looked at. Its kind is told by its content, and nothing in it may ask or run anything. */
export default route(contract.files.preview, async ({ event, ws, account, params }) => {
  const id = idParam(params);
  if (!(await maySeeFile(ws, account, id))) throw notFound('This file');
  const { name, type, content } = await previewOf(ws, id);
  setHeader(event, 'content-type', type);
  setHeader(event, 'x-content-type-options', 'nosniff');
  setHeader(event, 'content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; object-src 'self'; frame-ancestors 'none'");
  setHeader(event, 'content-disposition', `inline; filename*=UTF-8''${encodeURIComponent(name)}`);
  return content;
});

import { contract } from '../../../core/contract/index.ts';
import { checkImport } from '../../services/imports';
import { openUpload } from '../../services/uploads';
import { route } from '../../utils/route';

/** Begins to say what does not convert and which links match no row. Writes nothing. */
export default route(contract.imports.check, async ({ ws, account, begin, body: { plan, upload } }) => ({
  job: begin('check', async (job) => checkImport(ws, plan, await openUpload(upload, account.id), job)),
}));

import { checkImport } from '../../services/imports';
import { beginJob } from '../../services/jobs';
import { openUpload } from '../../services/uploads';
import { importBody } from '../../utils/importBody';
import { route } from '../../utils/route';

/** Begins to say what does not convert and which links match no row. Writes nothing. */
export default route({ may: 'design', body: importBody }, async ({ ws, account, body: { plan, upload } }) => ({
  job: beginJob('check', account.id, async (job) => checkImport(ws, plan, await openUpload(upload, account.id), job)),
}));

import { runImport } from '../../services/imports';
import { beginJob } from '../../services/jobs';
import { dropUpload, openUpload } from '../../services/uploads';
import { importBody } from '../../utils/importBody';
import { route } from '../../utils/route';

/** Begins to import a file into a new table or an existing one: all of it or nothing. */
export default route({ may: 'design', body: importBody }, async ({ ws, account, body: { plan, upload } }) => ({
  job: beginJob('import', account.id, async (job) => {
    const done = await runImport(ws, account, plan, await openUpload(upload, account.id), job);
    await dropUpload(upload);
    return done;
  }),
}));

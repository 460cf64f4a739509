import { contract } from '../../../core/contract/index.ts';
import { runImport } from '../../services/imports';
import { dropUpload, openUpload } from '../../services/uploads';
import { route } from '../../utils/route';

/** Begins to import a file into a new table or an existing one: all of it or nothing. */
export default route(contract.imports.run, async ({ ws, account, begin, body: { plan, upload } }) => ({
  job: begin('import', async (job) => {
    const done = await runImport(ws, account, plan, await openUpload(upload, account.id), job);
    await dropUpload(upload);
    return done;
  }),
}));

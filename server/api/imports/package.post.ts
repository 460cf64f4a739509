import { contract } from '../../../core/contract/index.ts';
import { importPackage } from '../../services/packages';
import { dropUpload, uploadOf } from '../../services/uploads';
import { route } from '../../utils/route';

/** Begins to import a data package: each of its resources a new table, linked by its foreign keys; all of them or none. */
export default route(contract.imports.package, async ({ ws, account, begin, body: { upload } }) => {
  const { path } = uploadOf(upload, account.id);
  return {
    job: begin('import', async (job) => {
      const done = await importPackage(ws, account, path, job);
      await dropUpload(upload);
      return done;
    }),
  };
});

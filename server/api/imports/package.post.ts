import { z } from 'zod';
import { beginJob } from '../../services/jobs';
import { importPackage } from '../../services/packages';
import { dropUpload, uploadOf } from '../../services/uploads';
import { route } from '../../utils/route';

const body = z.object({ upload: z.string() });

/** Begins to import a data package: each of its resources a new table, linked by its foreign keys; all of them or none. */
export default route({ may: 'design', body }, async ({ ws, account, body: { upload } }) => {
  const { path } = uploadOf(upload, account.id);
  return {
    job: beginJob('import', account.id, async (job) => {
      const done = await importPackage(ws, account, path, job);
      await dropUpload(upload);
      return done;
    }),
  };
});

import { contract } from '../../../core/contract/index.ts';
import { bringInWorkspace } from '../../services/archiveIn';
import { dropUpload, uploadOf } from '../../services/uploads';
import { route } from '../../utils/route';

/** Begins to bring in a workspace from an archive. */
export default route(contract.archives.in, async ({ ws, account, begin, body: { upload } }) => {
  const { path } = uploadOf(upload, account.id);
  return {
    job: begin('archive', async (job) => {
      const done = await bringInWorkspace(ws, account, path, job);
      await dropUpload(upload);
      return done;
    }),
  };
});

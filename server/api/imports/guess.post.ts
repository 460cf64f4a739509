import { z } from 'zod';
import { isPackage, lookAtPackage } from '../../services/packages';
import { guessImport } from '../../services/imports';
import { beginJob } from '../../services/jobs';
import { openUpload, uploadOf } from '../../services/uploads';
import { route } from '../../utils/route';

const body = z.object({ upload: z.string(), into: z.string().nullable().default(null) }) as unknown as z.ZodType<{
  upload: string;
  into: string | null;
}>;

/** Begins to look at a file that was sent: columns with guessed types and links, or what a data package holds. Writes nothing. */
export default route({ may: 'design', body }, async ({ ws, account, body: { upload, into } }) => {
  const { name, path } = uploadOf(upload, account.id);
  const look = isPackage(name) ? () => lookAtPackage(ws, path) : null;
  return {
    job: beginJob('guess', account.id, async (job) =>
      look ? { package: await look() } : guessImport(ws, await openUpload(upload, account.id), into, job),
    ),
  };
});

import { contract } from '../../../core/contract/index.ts';
import { isPackage, lookAtPackage } from '../../services/packages';
import { guessImport } from '../../services/importGuess';
import { openUpload, uploadOf } from '../../services/uploads';
import { route } from '../../utils/route';

/** Begins to look at a file that was sent: columns with guessed types and links, or what a data package holds. Writes nothing. */
export default route(contract.imports.guess, async ({ ws, account, begin, body: { upload, into } }) => {
  const { name, path } = uploadOf(upload, account.id);
  const look = isPackage(name) ? () => lookAtPackage(ws, path) : null;
  return {
    job: begin('guess', async (job) =>
      look ? { package: await look() } : guessImport(ws, await openUpload(upload, account.id), into, job),
    ),
  };
});

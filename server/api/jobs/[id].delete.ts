import { cancelJob } from '../../services/jobs';
import { route } from '../../utils/route';

/** Cancels long work; it stops at its next step and leaves nothing behind. */
export default route({ may: 'signedIn' }, async ({ account, params }) => {
  cancelJob(params.id ?? '', account.id);
  return { ok: true };
});

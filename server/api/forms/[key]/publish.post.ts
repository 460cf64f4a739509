import { z } from 'zod';
import { publish } from '../../../services/forms';
import { route } from '../../../utils/route';

const body = z.object({ revision: z.number().int() });

/** Publishes the draft as a new version. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { revision } }) => ({
  version: await publish(ws, account, params.key ?? '', revision),
}));

import { z } from 'zod';
import { storedRecord } from '../../../services/entries';
import { draftOf } from '../../../services/forms';
import { route } from '../../../utils/route';

const query = z.object({ record: z.coerce.number().int().min(1) }) as unknown as z.ZodType<{ record: number }>;

/** An existing record as the draft opens it, to be tried on without being saved. */
export default route({ may: 'design', query }, async ({ ws, params, query: { record } }) => {
  const { draft, revision } = await draftOf(ws, params.key ?? '');
  return (await storedRecord(ws, await ws.plan(`draft ${revision}`, draft), record)).record;
});

import { z } from 'zod';
import { formSchema } from '../../../../core/form/definition.ts';
import { saveDraft } from '../../../services/forms';
import { route } from '../../../utils/route';

const body = z.object({ draft: formSchema, revision: z.number().int() });

/** Saves the draft, unless somebody else saved it meanwhile (409). */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { draft, revision } }) => ({
  revision: await saveDraft(ws, account, params.key ?? '', draft, revision),
}));

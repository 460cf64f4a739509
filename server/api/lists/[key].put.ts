import { z } from 'zod';
import { type OptionList, optionListSchema } from '../../../core/form/lists.ts';
import { saveList } from '../../services/lists';
import { route } from '../../utils/route';

const body = z.object({ list: optionListSchema, revision: z.number().int() }) as unknown as z.ZodType<{
  list: OptionList;
  revision: number;
}>;

/** Saves an option list as a whole. */
export default route({ may: 'design', body }, async ({ ws, account, params, body: { list, revision } }) => ({
  revision: await saveList(ws, account, { ...list, key: params.key ?? '' }, revision),
}));

import { z } from 'zod';
import { valueHeld } from '../../../services/lists';
import { route } from '../../../utils/route';

const query = z.object({ value: z.string().min(1).max(200) });

/** How many records hold a value of the list, and where. */
export default route({ may: 'design', query }, ({ ws, params, query: { value } }) => valueHeld(ws, params.key ?? '', value));

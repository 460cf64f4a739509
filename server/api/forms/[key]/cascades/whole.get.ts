import { z } from 'zod';
import { cascadeWhole } from '../../../../services/coverage';
import { route } from '../../../../utils/route';

const query = z.object({ cascade: z.coerce.number().int().min(0) });

/** A whole cascade for a picture of it: its levels from the top, as many as can be drawn. */
export default route({ may: 'design', query }, ({ ws, params, query: asked }) => cascadeWhole(ws, params.key ?? '', asked.cascade));

import { z } from 'zod';
import { createLinesTable } from '../../../services/structure';
import { route } from '../../../utils/route';

const body = z.object({ label: z.string().trim().min(1).max(120) });

/** Makes a child table for lines of a form: with the link to the record and the place of the line. */
export default route({ may: 'design', body }, ({ ws, params, body: { label } }) => createLinesTable(ws, params.key ?? '', label));

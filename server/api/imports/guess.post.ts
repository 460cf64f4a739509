import { z } from 'zod';
import { MAX_IMPORT_BYTES, guessImport } from '../../services/imports';
import { route } from '../../utils/route';

const body = z.object({ name: z.string().max(200), text: z.string() });

/** Looks at a CSV file: columns with guessed types and links. Writes nothing. */
export default route({ may: 'design', body, maxBytes: MAX_IMPORT_BYTES }, ({ ws, body: { name, text } }) => guessImport(ws, name, text));

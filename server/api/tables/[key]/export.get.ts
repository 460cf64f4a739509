import { Readable } from 'node:stream';
import { sendStream, setHeader } from 'h3';
import { z } from 'zod';
import { exportCsv, exportJson } from '../../../services/exports';
import { route } from '../../../utils/route';

const query = z.object({ as: z.enum(['csv', 'json']).default('csv') }) as unknown as z.ZodType<{ as: 'csv' | 'json' }>;

/** A table as a file to keep: streamed, so that its size does not matter. */
export default route({ may: 'design', query }, async ({ event, ws, params, query: { as } }) => {
  const table = await ws.modelTable(params.key ?? '');
  setHeader(event, 'content-type', as === 'csv' ? 'text/csv; charset=utf-8' : 'application/json; charset=utf-8');
  setHeader(event, 'content-disposition', `attachment; filename="${table.key}.${as}"`);
  return sendStream(event, Readable.from(as === 'csv' ? exportCsv(ws, table.key) : exportJson(ws, table.key)));
});

import { type H3Event, sendStream, setHeader } from 'h3';
import { type ExportAsked, exported } from '../services/exported';
import type { Workspace } from '../services/workspace';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  package: 'application/zip',
};

/** Sends a file to keep as it is made, so that its size does not matter. Throws Refused, with nothing sent, where it cannot be made. */
export async function sendFile(event: H3Event, ws: Workspace, asked: ExportAsked, name: string, as: keyof typeof TYPES): Promise<unknown> {
  const file = await exported(ws, asked);
  setHeader(event, 'content-type', TYPES[as]);
  setHeader(event, 'content-disposition', `attachment; filename="${name}.${as === 'package' ? 'zip' : as}"`);
  // whoever goes away takes no more of it
  event.node.res.once('close', () => file.destroy());
  return sendStream(event, file);
}

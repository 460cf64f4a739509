import type { Readable } from 'node:stream';
import { type H3Event, sendStream, setHeader } from 'h3';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  package: 'application/zip',
};

/** Sends a file to keep as it comes, so that its size does not matter. */
export function sendFile(event: H3Event, name: string, as: keyof typeof TYPES, file: Readable): Promise<unknown> {
  setHeader(event, 'content-type', TYPES[as]);
  setHeader(event, 'content-disposition', `attachment; filename="${name}.${as === 'package' ? 'zip' : as}"`);
  // whoever goes away takes no more of it
  event.node.res.once('close', () => file.destroy());
  return sendStream(event, file);
}

import { type H3Event, sendStream, setHeader } from 'h3';
import { Readable } from 'node:stream';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  package: 'application/zip',
};

/** Sends a file to keep, a piece at a time, so that its size does not matter. */
export function sendFile(event: H3Event, name: string, as: keyof typeof TYPES, pieces: AsyncIterable<string | Uint8Array>) {
  setHeader(event, 'content-type', TYPES[as]);
  setHeader(event, 'content-disposition', `attachment; filename="${name}.${as === 'package' ? 'zip' : as}"`);
  return sendStream(event, Readable.from(pieces));
}

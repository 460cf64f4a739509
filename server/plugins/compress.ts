import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import { jsonText } from '../utils/jsonText';
import { appendResponseHeader, getRequestHeader, getResponseHeader, setResponseHeader } from 'h3';

/* Answers and pages travel compressed, where whoever asks takes that; files and what is sent as it comes have their own way. */

const compressed = promisify(gzip);
/** What is smaller fits into a packet or two as it is. */
const LEAST = 1400;
/** Between the time it takes here and on the line. */
const LEVEL = 5;

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('beforeResponse', async (event, response) => {
    const { body } = response as { body?: unknown };
    const isText = typeof body === 'string';
    if (!isText && !isPlain(body)) return;
    if (getResponseHeader(event, 'content-encoding')) return;
    const text = isText ? body : await jsonText(body);
    if (!isText) {
      if (!getResponseHeader(event, 'content-type')) setResponseHeader(event, 'content-type', 'application/json');
      response.body = text;
    }
    if (text.length < LEAST || !/\bgzip\b/.test(getRequestHeader(event, 'accept-encoding') ?? '')) return;
    response.body = await compressed(text, { level: LEVEL });
    setResponseHeader(event, 'content-encoding', 'gzip');
    appendResponseHeader(event, 'vary', 'accept-encoding');
  });
});
/** What is sent as JSON: no stream, no bytes. */
const isPlain = (body: unknown): body is object =>
  typeof body === 'object' &&
  body !== null &&
  [Object.prototype, Array.prototype, null].includes(Object.getPrototypeOf(body) as object | null);

import { type H3Event, getHeader } from 'h3';

/**
 * The address a request came from. Behind a proxy (BRISK_PROXY=yes) it is the last that the proxy noted: those before it are
 * whatever the client wrote.
 */
export function addressOf(event: H3Event): string {
  const direct = event.node.req.socket.remoteAddress ?? '?';
  if (process.env.BRISK_PROXY !== 'yes') return direct;
  return getHeader(event, 'x-forwarded-for')?.split(',').at(-1)?.trim() || direct;
}

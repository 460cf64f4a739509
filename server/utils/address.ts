import { type H3Event, getHeader } from 'h3';

/** Whether a proxy of ours stands in front, so that what it notes can be believed. */
export const behindProxy = (): boolean => process.env.BRISK_PROXY === 'yes';

/**
 * The address a request came from. Behind a proxy (BRISK_PROXY=yes) it is the last that the proxy noted: those before it are
 * whatever the client wrote.
 */
export function addressOf(event: H3Event): string {
  const direct = event.node.req.socket.remoteAddress ?? '?';
  if (!behindProxy()) return direct;
  return getHeader(event, 'x-forwarded-for')?.split(',').at(-1)?.trim() || direct;
}

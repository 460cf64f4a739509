import type { Server } from 'node:http';
import type { Socket } from 'node:net';

/*
 * Connections that nobody uses are kept for longer than browsers and proxies keep them: whoever asks over one just as it is closed here gets
 * no answer, and cannot know whether what they asked was done.
 */

/** In ms; proxies commonly keep theirs for a minute. */
const KEPT = 75_000;

export default defineNitroPlugin((nitro) => {
  let known: Server | undefined;
  nitro.hooks.hook('request', ({ node }) => {
    const { server } = node.req.socket as Socket & { readonly server?: Server };
    if (!server || server === known) return;
    known = server;
    server.keepAliveTimeout = KEPT;
  });
});

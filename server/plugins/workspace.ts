import { troubleOf } from '../utils/trouble';
import { formsAhead } from '../services/forms';
import { firstLink } from '../services/people';
import type { Workspace } from '../services/workspace';
import { closeWorkspace, useWorkspace } from '../utils/workspace';
import { helpersStepBack } from '../work/priority';

/** Says in one sentence why the server cannot go on, and ends it. */
function giveUp(what: string, error: unknown): never {
  const trouble = troubleOf(error);
  if (trouble) console.error(`${what}: ${trouble}`);
  else console.error(`${what}:`, error);
  process.exit(1);
}

/** Says how the first administrator comes in, where nobody has an account yet. The link is for whoever reads this output. */
async function welcome(ws: Workspace): Promise<void> {
  const link = await firstLink(ws);
  if (!link) return;
  const host = process.env.NITRO_HOST ?? process.env.HOST ?? 'localhost';
  const port = process.env.NITRO_PORT ?? process.env.PORT ?? '3000';
  const address = ['0.0.0.0', '::'].includes(host) ? 'localhost' : host;
  console.log(`This workspace is empty. Make its first administrator (once, within a week):\n  http://${address}:${port}${link.path}`);
}

/**
 * Opens the workspace at the start rather than at the first request, and closes it at a clean stop, so that the database file
 * alone is whole then. A server that cannot open it, or cannot listen, ends and says why.
 */
export default defineNitroPlugin((nitro) => {
  helpersStepBack();
  process.on('uncaughtException', (error: NodeJS.ErrnoException) => {
    if (error.syscall === 'listen') giveUp('The server cannot start', error);
  });
  nitro.hooks.hook('close', closeWorkspace);
  void useWorkspace()
    .then(async (ws) => {
      await welcome(ws);
      // nobody waits for it, and a server that is ended meanwhile ends
      void formsAhead(ws)
        .catch(() => undefined)
        .then(() => {
          ws.work.expect('sql');
          ws.work.expect('impact');
        });
    })
    .catch((e: unknown) => giveUp('The workspace could not be opened', e));
});

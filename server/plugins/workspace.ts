import { troubleOf } from '../utils/trouble';
import { closeWorkspace, useWorkspace } from '../utils/workspace';

/** Says in one sentence why the server cannot go on, and ends it. */
function giveUp(what: string, error: unknown): never {
  const trouble = troubleOf(error);
  if (trouble) console.error(`${what}: ${trouble}`);
  else console.error(`${what}:`, error);
  process.exit(1);
}

/**
 * Opens the workspace at the start rather than at the first request, and closes it at a clean stop, so that the database file
 * alone is whole then. A server that cannot open it, or cannot listen, ends and says why.
 */
export default defineNitroPlugin((nitro) => {
  process.on('uncaughtException', (error: NodeJS.ErrnoException) => {
    if (error.syscall === 'listen') giveUp('The server cannot start', error);
  });
  nitro.hooks.hook('close', closeWorkspace);
  void useWorkspace().catch((e: unknown) => giveUp('The workspace could not be opened', e));
});

import { useWorkspace } from '../utils/workspace';

/** Opens the workspace at the start rather than at the first request; a server that cannot open it ends. */
export default defineNitroPlugin(async () => {
  try {
    await useWorkspace();
  } catch (e) {
    console.error('The workspace could not be opened:', e);
    process.exit(1);
  }
});

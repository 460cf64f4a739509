import { loadDemo } from '../demo/load';
import { useWorkspace } from '../utils/workspace';

/** With BRISK_DEMO naming the demo's folder, an empty workspace is filled with it before the first request is answered. */
export default defineNitroPlugin(async () => {
  const folder = process.env.BRISK_DEMO;
  if (!folder) return;
  try {
    await loadDemo(await useWorkspace(), folder, hashPassword);
  } catch (e) {
    console.error('The demo could not be loaded:', e);
    process.exit(1);
  }
});

import { rmSync } from 'node:fs';
import { dataFolder, ready, startServer } from './server';
import { onServer, setPrepared } from './workspace';

/** Loads the demo once, into the folder that every file of tests takes its copy of. */
export default async function prepare(): Promise<() => void> {
  const folder = dataFolder();
  // enough herbarium sheets that their list is read in pages from the database
  const server = await startServer(folder, { BRISK_SCALE: '20000', ...(await onServer(null)) });
  await ready(server);
  await server.stop();
  setPrepared(folder);
  return () => rmSync(folder, { recursive: true, force: true });
}

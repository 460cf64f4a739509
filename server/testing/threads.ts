import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bundleWork } from '../work/bundle';
import { Pool } from '../work/pool';

/** The threads of a workspace in a file, run from our sources as they are now. */
export async function threadsOf(file: string, files: string): Promise<Pool> {
  const root = fileURLToPath(new URL('../..', import.meta.url));
  // packages are found from where the bundle stands
  const entry = join(root, 'node_modules', `.brisk-work-${process.pid}.mjs`);
  await bundleWork(root, entry);
  process.once('exit', () => rmSync(entry, { force: true }));
  return new Pool(entry, file, files);
}

// npm run move: copies the workspace in a data folder into a database of a PostgreSQL server. See docs/operating.md.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installIfNeeded } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
installIfNeeded(root);
const { build } = await import('esbuild');
// beside the packages, so that they are found from it
const folder = mkdtempSync(join(root, 'node_modules', '.move-'));
try {
  const outfile = join(folder, 'move.mjs');
  await build({ entryPoints: [join(root, 'server/copyDatabase.ts')], outfile, bundle: true, platform: 'node', format: 'esm', target: 'node20', packages: 'external', logLevel: 'error' }); // prettier-ignore
  process.exitCode = spawnSync(process.execPath, [outfile], { stdio: 'inherit' }).status ?? 1;
} finally {
  rmSync(folder, { recursive: true, force: true });
}

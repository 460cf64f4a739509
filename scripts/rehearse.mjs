// npm run rehearse -- [--demo] FILE…: runs the rehearsals in form files; ends with 0 when all come out as expected, 1 when
// some do not, 2 when one could not be run.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installIfNeeded } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
installIfNeeded(root);
const { build } = await import('esbuild');
// beside the packages, so that they are found from it
const folder = mkdtempSync(join(root, 'node_modules', '.rehearse-'));
try {
  const outfile = join(folder, 'rehearse.mjs');
  await build({ entryPoints: [join(root, 'server/rehearseFiles.ts')], outfile, bundle: true, platform: 'node', format: 'esm', target: 'node20', packages: 'external', logLevel: 'error' }); // prettier-ignore
  const env = { ...process.env, BRISK_DEMO: process.env.BRISK_DEMO ?? join(root, 'demo') };
  process.exitCode = spawnSync(process.execPath, [outfile, ...process.argv.slice(2)], { stdio: 'inherit', env }).status ?? 2;
} finally {
  rmSync(folder, { recursive: true, force: true });
}

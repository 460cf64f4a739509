// npm run rehearse -- [--demo] FILE…: runs the rehearsals in form files; ends with 0 when all come out as expected, 1 when
// some do not, 2 when one could not be run.
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installIfNeeded, runSource } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
installIfNeeded(root);
const env = { BRISK_DEMO: process.env.BRISK_DEMO ?? join(root, 'demo') };
process.exitCode = (await runSource(root, 'server/rehearseFiles.ts', process.argv.slice(2), env)) ?? 2;

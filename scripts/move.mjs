// npm run move: copies the workspace in a data folder into a database of a PostgreSQL server. See docs/operating.md.
import { fileURLToPath } from 'node:url';
import { installIfNeeded, runSource } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
installIfNeeded(root);
process.exitCode = (await runSource(root, 'server/copyDatabase.ts')) ?? 1;

// npm run demo: from a fresh clone to a running demo. Installs and builds when needed, keeps what was entered;
// `npm run demo -- --fresh` starts over.
import { spawn } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { buildIfNeeded, installIfNeeded } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const data = process.env.BRISK_DATA ?? `${root}data`;
if (process.argv.includes('--fresh')) rmSync(data, { recursive: true, force: true });
installIfNeeded(root);
buildIfNeeded(root);
mkdirSync(data, { recursive: true });
const port = process.env.PORT ?? '3000';
const server = spawn(process.execPath, [`${root}.output/server/index.mjs`], {
  cwd: root,
  stdio: 'inherit',
  env: {
    ...process.env,
    PORT: port,
    NITRO_HOST: process.env.HOST ?? '127.0.0.1',
    BRISK_DATA: data,
    BRISK_DEMO: `${root}demo`,
    // npm run demo -- --scale adds a million herbarium sheets and a form over them
    ...(process.argv.includes('--scale') ? { BRISK_SCALE: '1000000' } : {}),
    // the demo is served without TLS, where a secure cookie would not be kept
    BRISK_PLAIN_HTTP: 'yes',
  },
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));

for (let i = 0; i < 900; i++) {
  const up = await fetch(`http://127.0.0.1:${port}/api/health`).then((r) => r.ok, () => false); // prettier-ignore
  if (up) break;
  await new Promise((resolve) => setTimeout(resolve, 200));
}
console.log(`
  Brisk Acorn is at http://localhost:${port}

  Sign in with one press on the sign-in page, or with a password (fen-and-marsh):
    maud@marrowfen.example   designer
    ida@marrowfen.example    clerk
    tom@marrowfen.example    clerk
    nell@marrowfen.example   reviewer
    peg@marrowfen.example    administrator
`);

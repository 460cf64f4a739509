// npm test: everything, on a fresh clone with Node.js 20 alone. Ends with a line "N passed, N failed".
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { buildIfNeeded, installIfNeeded } from './build.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const call = (command, args, env = {}) =>
  spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', ...env } }).status === 0;

installIfNeeded(root);
// the linter's resolver and the type checks read the tsconfig files that this makes
call('npx', ['nuxt', 'prepare']);
const chromium = process.env.CHROMIUM ?? '/usr/bin/chromium';
if (!existsSync(chromium)) {
  console.log('Chromium is missing; installing Debian’s package.');
  call('apt-get', ['update']);
  call('apt-get', ['install', '-y', '--no-install-recommends', 'chromium']);
}

let passed = 0;
let failed = 0;
const step = (name, good) => {
  console.log(`${good ? 'ok' : 'FAILED'}: ${name}`);
  if (good) passed++;
  else failed++;
};
step('lint', call('npx', ['eslint', '.', '--max-warnings', '0']));
step('format', call('npx', ['prettier', '--check', '.', '--log-level', 'warn']));
step('types of core', call('npx', ['tsc', '-p', 'core/tsconfig.json']));
step('types of tests', call('npx', ['tsc', '-p', 'tests/tsconfig.json']));
step('types of application and server', call('npx', ['nuxt', 'typecheck']));
step('types of the application’s tests', call('npx', ['vue-tsc', '--noEmit', '-p', 'app/testing/tsconfig.json']));

rmSync(`${root}test-results`, { recursive: true, force: true });
call('npx', ['vitest', 'run', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json']);
const unit = read('unit.json');
passed += unit?.numPassedTests ?? 0;
// a run that could not even start counts as one failure
failed += unit ? unit.numFailedTests + (unit.success || unit.numFailedTests > 0 ? 0 : 1) : 1;

buildIfNeeded(root);
if (existsSync(chromium)) {
  call('npx', ['playwright', 'test']);
  const e2e = read('e2e.json');
  passed += (e2e?.stats.expected ?? 0) + (e2e?.stats.flaky ?? 0);
  failed += e2e ? e2e.stats.unexpected : 1;
  if (e2e?.stats.flaky) console.log(`\nNot at the first try, to be looked into: ${e2e.stats.flaky} (marked “flaky” above).`);
} else {
  console.error('There is no Chromium, so the end-to-end tests did not run.');
  failed++;
}

function read(file) {
  try {
    return JSON.parse(readFileSync(`${root}test-results/${file}`, 'utf8'));
  } catch {
    return null;
  }
}
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);

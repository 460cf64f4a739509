// npm test: everything, on a fresh clone with Node.js 20 alone. Ends with a line "N passed, N failed".
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { buildIfNeeded, installIfNeeded } from './build.mjs';
import { startPostgres } from './postgres.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
const call = (command, args, env = {}) =>
  spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', ...env } }).status === 0;

/** The same beside others: what it writes is given when it has ended. */
const heard = (command, args) =>
  new Promise((resolve) => {
    let output = '';
    const child = spawn(command, args, { cwd: root, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } });
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => (output += part));
    child.on('error', (e) => resolve({ good: false, output: String(e) }));
    child.on('close', (code) => resolve({ good: code === 0, output }));
  });

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
// said once more at the end, where it is found: what failed stands thousands of lines further up
const failures = [];
const fail = (what) => {
  failed++;
  failures.push(what);
};
const step = (name, good) => {
  console.log(`${good ? 'ok' : 'FAILED'}: ${name}`);
  if (good) passed++;
  else fail(name);
};
/** Checks one after the other; what each says is told when it is done. */
const checks = async (...all) => {
  for (const [name, ...args] of all) {
    const { good, output } = await heard('npx', args);
    process.stdout.write(output);
    step(name, good);
  }
};
// each takes one processor, so that two go beside each other; what reads `.nuxt` waits until the first has written it
await Promise.all([
  checks(['types of application and server', 'nuxt', 'typecheck']),
  checks(
    ['format', 'prettier', '--check', '.', '--log-level', 'warn'],
    ['types of core', 'tsc', '-p', 'core/tsconfig.json'],
    ['types of tests', 'tsc', '-p', 'tests/tsconfig.json'],
  ),
]);
await Promise.all([
  checks(['lint', 'eslint', '.', '--max-warnings', '0']),
  checks(['types of the application’s tests', 'vue-tsc', '--noEmit', '-p', 'app/testing/tsconfig.json']),
]);

rmSync(`${root}test-results`, { recursive: true, force: true });
call('npx', ['vitest', 'run', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/unit.json']);
count('unit.json');

// the same tests of the server on the other kind of database
const postgres = await startPostgres();
if (postgres.url) {
  call('npx', ['vitest', 'run', 'server', '--reporter=default', '--reporter=json', '--outputFile.json=test-results/postgres.json'], { BRISK_TEST_SERVER: postgres.url }); // prettier-ignore
  count('postgres.json');
} else console.log(`\nThe tests on PostgreSQL were left out: ${postgres.missing}.`);

buildIfNeeded(root);
if (existsSync(chromium)) {
  const browse = (more = [], env = {}) => {
    // what an earlier run left is not counted again
    rmSync(`${root}test-results/e2e.json`, { force: true });
    call('npx', ['playwright', 'test', ...more], env);
    const e2e = read('e2e.json');
    passed += (e2e?.stats.expected ?? 0) + (e2e?.stats.flaky ?? 0);
    if (!e2e) fail('the browser tests could not start');
    else for (const what of unexpected(e2e)) fail(what);
    if (e2e?.stats.flaky) console.log(`\nNot at the first try, to be looked into: ${e2e.stats.flaky} (marked “flaky” above).`);
  };
  browse();
  // what screens do hangs on the database by its answers alone, which the tests of the server hold: entering, and servers beside each other
  if (postgres.url) browse(['tests/e2e/entry.spec.ts', 'tests/e2e/durable.spec.ts'], { BRISK_TEST_SERVER: postgres.url });
} else {
  fail('There is no Chromium, so the end-to-end tests did not run.');
}

/** Counts what a run of unit tests came to. One that could not even start counts as one failure. */
function count(file) {
  const run = read(file);
  passed += run?.numPassedTests ?? 0;
  const before = failed;
  for (const { name, assertionResults, status, message } of run?.testResults ?? []) {
    const ones = assertionResults.filter((a) => a.status === 'failed');
    for (const { fullName, failureMessages } of ones) fail(`${name} › ${fullName}\n${failureMessages.join('\n')}`);
    // a file that could not even be read has no tests
    if (status === 'failed' && !ones.length) fail(`${name}\n${message}`);
  }
  if (!run?.success && failed === before) fail(`the tests of ${file} could not start, or something in them failed outside of a test`);
}
/** What a run of browser tests did not expect: file, line, name and why. */
function unexpected(run) {
  const found = (suite) => [
    ...suite.specs.filter((s) => !s.ok).map((s) => `${s.file}:${s.line} › ${s.title}\n${s.tests.flatMap((t) => t.results.flatMap((r) => r.errors.map((e) => e.message))).join('\n')}`), // prettier-ignore
    ...(suite.suites ?? []).flatMap(found),
  ];
  const all = run.suites.flatMap(found);
  return run.stats.unexpected > 0 && !all.length ? ['a browser test'] : all;
}
function read(file) {
  try {
    return JSON.parse(readFileSync(`${root}test-results/${file}`, 'utf8'));
  } catch {
    return null;
  }
}
postgres.stop?.();
for (const what of failures) console.log(`\nFailed: ${what.slice(0, 2000)}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed ? 1 : 0);

import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Runs a command with its output shown; ends the script when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: 'inherit', ...options });
  if (result.status !== 0) {
    console.error(`\n${command} ${args.join(' ')} failed.`);
    process.exit(result.status ?? 1);
  }
}

const hashOf = (text) => createHash('sha256').update(text).digest('hex');

/** `npm ci` when node_modules is missing or older than the lockfile. */
export function installIfNeeded(root) {
  const stamp = `${root}node_modules/.brisk-lock`;
  const lock = hashOf(readFileSync(`${root}package-lock.json`));
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  run('npm', ['ci', '--no-audit', '--no-fund'], { cwd: root });
  writeFileSync(stamp, lock);
}

const SOURCES = ['app', 'core', 'modules', 'server', 'public', 'docs/guide', 'docs/screenshots', 'nuxt.config.ts', 'package-lock.json'];
function* files(path) {
  if (statSync(path).isFile()) yield path;
  else for (const name of readdirSync(path).sort()) yield* files(`${path}/${name}`);
}

/** Builds when a source file changed since the last build. */
export function buildIfNeeded(root) {
  const hash = createHash('sha256');
  for (const source of SOURCES)
    for (const file of files(`${root}${source}`)) hash.update(file.slice(root.length)).update(readFileSync(file));
  const now = hash.digest('hex');
  const stamp = `${root}.output/brisk-sources`;
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return;
  run('npx', ['nuxt', 'build'], { cwd: root, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } });
  writeFileSync(stamp, now);
}

/** Bundles a program of the server's sources and runs it, as it stands now; gives how it ended. */
export async function runSource(root, source, args = [], env = {}) {
  const { build } = await import('esbuild');
  // beside the packages, so that they are found from it
  const folder = mkdtempSync(join(root, 'node_modules', '.run-'));
  try {
    const outfile = join(folder, 'program.mjs');
    await build({ entryPoints: [join(root, source)], outfile, bundle: true, platform: 'node', format: 'esm', target: 'node20', packages: 'external', logLevel: 'error' }); // prettier-ignore
    return spawnSync(process.execPath, [outfile, ...args], { stdio: 'inherit', env: { ...process.env, ...env } }).status;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

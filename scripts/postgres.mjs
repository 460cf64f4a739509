// A PostgreSQL server for tests: of Debian's package, in a folder of its own, gone when they are done.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const WHERE = '/usr/lib/postgresql';
/** The folder of the newest server's programs; null where there is none. */
function programs() {
  if (!existsSync(WHERE)) return null;
  const versions = readdirSync(WHERE).filter((v) => existsSync(join(WHERE, v, 'bin/initdb')));
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest ? join(WHERE, newest, 'bin') : null;
}
const freePort = () =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => resolve(port));
    });
  });

/** Starts a server; installs the package where it may. Gives its connection string and how to stop it, or why there is none. */
export async function startPostgres() {
  const isRoot = process.getuid?.() === 0;
  if (!programs() && isRoot) {
    console.log('PostgreSQL is missing; installing Debian’s package.');
    spawnSync('apt-get', ['update'], { stdio: 'inherit' });
    spawnSync('apt-get', ['install', '-y', '--no-install-recommends', 'postgresql'], { stdio: 'inherit' });
  }
  const bin = programs();
  if (!bin) return { missing: 'there is no PostgreSQL on this machine' };
  const folder = mkdtempSync(join(tmpdir(), 'brisk-acorn-server-'));
  // the server does not run as root: the account that the package has made does
  const as = isRoot ? ['runuser', '-u', 'postgres', '--'] : [];
  const run = (...command) => {
    const [program, ...args] = [...as, ...command];
    const done = spawnSync(program, args, { encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`${command[0]}: ${done.stderr || done.error?.message}`);
  };
  try {
    if (isRoot && spawnSync('chown', ['postgres', folder]).status !== 0) throw new Error('there is no account postgres');
    const data = join(folder, 'data');
    const port = await freePort();
    run(join(bin, 'initdb'), '-D', data, '-U', 'brisk', '--auth=trust', '--encoding=UTF8', '--locale=C', '--no-sync');
    // it is thrown away: nothing of it need be durable
    const settings = `-p ${port} -k ${folder} -c listen_addresses=127.0.0.1 -c max_connections=200 -c fsync=off -c full_page_writes=off`;
    run(join(bin, 'pg_ctl'), '-D', data, '-o', settings, '-l', join(folder, 'log'), '-w', 'start');
    const stop = () => {
      run(join(bin, 'pg_ctl'), '-D', data, '-m', 'immediate', 'stop');
      rmSync(folder, { recursive: true, force: true });
    };
    return { url: `postgres://brisk@127.0.0.1:${port}`, stop };
  } catch (e) {
    rmSync(folder, { recursive: true, force: true });
    return { missing: e instanceof Error ? e.message : String(e) };
  }
}

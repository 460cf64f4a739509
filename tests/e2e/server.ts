import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/* A server of a test's own: on its own port and data, so that it can be killed, locked and started again. */

const root = join(import.meta.dirname, '..', '..');

export const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
export const dataFolder = (): string => mkdtempSync(join(tmpdir(), 'brisk-acorn-own-'));

export interface OwnServer {
  readonly url: string;
  readonly process: ChildProcess;
  /** all it has written so far, to either stream */
  output(): string;
  /** its exit code, once it has ended */
  readonly ended: Promise<number | null>;
  stop(signal?: NodeJS.Signals): Promise<number | null>;
}

/** Starts a server, with settings and with arguments of Node's; does not wait until it answers. */
export async function startServer(data: string, more: Record<string, string> = {}, args: readonly string[] = []): Promise<OwnServer> {
  const port = more.PORT ?? String(await freePort());
  const child = spawn(process.execPath, [...args, join(root, '.output/server/index.mjs')], {
    env: {
      ...process.env,
      PORT: port,
      NITRO_HOST: '127.0.0.1',
      BRISK_DATA: data,
      BRISK_DEMO: join(root, 'demo'),
      BRISK_DEMO_RECORDS: 'few',
      BRISK_PLAIN_HTTP: 'yes',
      BRISK_CHECK_ANSWERS: 'yes',
      ...more,
    },
  });
  // whoever started it may be cut off before it stops it
  const stopped = (): void => void child.kill('SIGKILL');
  process.once('exit', stopped);
  child.once('exit', () => process.off('exit', stopped));
  let output = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk: Buffer) => (output += chunk.toString()));
  const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
  return {
    url: `http://127.0.0.1:${port}`,
    process: child,
    output: () => output,
    ended,
    stop(signal = 'SIGTERM') {
      child.kill(signal);
      return ended;
    },
  };
}

/** Waits until a server says that it can do its work; throws with what it wrote when it ends before. */
export async function ready(server: OwnServer): Promise<void> {
  let over = false;
  void server.ended.then(() => (over = true));
  for (let i = 0; i < 600; i++) {
    if (over) throw new Error(`the server ended: ${server.output()}`);
    if (await fetch(`${server.url}/api/health`).then((r) => r.ok, () => false)) return; // prettier-ignore
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error('the server did not become ready');
}

/** Signs in as one of the demo's people; gives the cookie. */
export async function signedIn(server: OwnServer, account = 1): Promise<string> {
  const r = await fetch(`${server.url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ demo: account }),
  });
  return r.headers.get('set-cookie')?.split(';')[0] ?? '';
}

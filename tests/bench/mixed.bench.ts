import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type OwnServer, ready, signedIn, startServer } from '../e2e/server.ts';
import { goal } from './measure.ts';
import { Asking, type Client, type Next, client, records } from './saves.bench.ts';

/*
 * What everybody waits while everything happens at once: clerks save, one of them a thousand lines, and designers preview, apply and undo
 * a backfill, look at what a draft does, import, export and search. Measured on the server itself: the longest time in which its main
 * thread did nothing else, one kind of work after the other and then all of them; and what somebody waits who only asks who they are.
 * Beside it stands a bare process with nothing to do: how late it came to its turn, with the same processors under the same load.
 */
const SECONDS = Number(process.env.BENCH_SECONDS ?? 8);
const ROWS = 20_000;

export interface Blocks {
  readonly p50: number;
  readonly p99: number;
  readonly longest: number;
}
/** The blocks of a server’s main thread since this was asked last; the server writes them into `file` (see blocks.mjs). */
export async function blocksOf(process: ChildProcess, file: string): Promise<Blocks> {
  rmSync(file, { force: true });
  process.kill('SIGUSR2');
  for (let i = 0; ; i++) {
    try {
      return JSON.parse(readFileSync(file, 'utf8')) as Blocks;
    } catch (e) {
      if (i > 500) throw e;
      await new Promise((resolve) => setTimeout(resolve, 10));
    }
  }
}

/** A table as it comes in: names that occur often, days, figures of many digits. */
const sheet = (rows: number): string =>
  ['name,found,day,weight,ratio', ...Array.from({ length: rows }, (_, i) => `Carex ${i % 911},${i % 3 ? 'yes' : 'no'},2026-${String((i % 12) + 1).padStart(2, '0')}-${String((i % 28) + 1).padStart(2, '0')},${((i * 7.919) % 900).toFixed(3)},${(1 / (i + 3)).toPrecision(12)}`)].join('\n'); // prettier-ignore

export async function told(c: Client, method: string, path: string, body?: unknown): Promise<Record<string, unknown>> {
  const { status, text } = await c.send(method, path, body);
  if (status >= 300) throw new Error(`${method} ${path}: ${status} ${text.slice(0, 400)}`);
  return (text ? JSON.parse(text) : {}) as Record<string, unknown>;
}
/** Begins long work, and waits for what comes of it. */
async function done(c: Client, path: string, body: unknown): Promise<Record<string, unknown>> {
  const { job } = await told(c, 'POST', path, body);
  for (;;) {
    const now = await told(c, 'GET', `/api/jobs/${String(job)}`);
    if (now.state === 'done') return now.result as Record<string, unknown>;
    if (now.state !== 'running') throw new Error(`${path}: ${JSON.stringify(now.error)}`);
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
}

type Turn = () => Promise<unknown>;
function works(maud: Client, clerk: Client, server: OwnServer, cookie: string, made: Record<string, Next>, asked: (lines: number) => Next) {
  const post = (next: Next) => async () => {
    const [path, body] = next();
    await told(clerk, 'POST', path, body);
  };
  let imports = 0;
  const backfills = '/api/forms/lot_intake/backfills';
  return {
    'clerks save': Array.from({ length: 8 }, () => post(made['bench task'] as Next)),
    'a thousand lines are saved': [post(asked(1000))],
    'a backfill: preview, apply, undo': [
      async () => {
        const { id } = (await done(maud, backfills, {
          fields: ['storage_c', 'germination_days', 'seeds', 'description'],
          over: 'all',
        })) as { id: number };
        await done(maud, `${backfills}/${id}/apply`, {});
        await done(maud, `${backfills}/${id}/undo`, {});
      },
    ],
    'what a draft does': [() => done(maud, '/api/forms/lot_intake/impacts', {})],
    'a table is imported': [
      async () => {
        const sent = await fetch(`${server.url}/api/uploads?name=found.csv`, { method: 'POST', body: sheet(ROWS), headers: { cookie, 'content-type': 'text/csv' } }); // prettier-ignore
        const upload = ((await sent.json()) as { id: string }).id;
        const guess = (await done(maud, '/api/imports/guess', { upload, into: null })) as { key: string; label: string; shown: string | null; columns: object[] }; // prettier-ignore
        const plan = { key: `found_${++imports}`, label: guess.label, shown: guess.shown, columns: guess.columns, repairs: {} };
        const { table } = (await done(maud, '/api/imports', { plan, upload })) as { table: string };
        await told(maud, 'DELETE', `/api/tables/${table}`);
      },
    ],
    'tables are exported': [() => maud.send('GET', '/api/tables/export')],
    'somebody searches': [() => told(maud, 'GET', `/api/tables/species/find?text=${'aeiou'[Math.floor(performance.now()) % 5]}`)],
  } satisfies Record<string, readonly Turn[]>;
}

/** Everything in turn, over and over, until then; gives how often a turn came round. */
async function until(end: number, turns: readonly Turn[]): Promise<number> {
  let n = 0;
  const one = async (turn: Turn): Promise<void> => {
    do {
      await turn();
      n++;
    } while (performance.now() < end);
  };
  await Promise.all(turns.map(one));
  return n;
}

export default async function run(): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  const file = join(data, 'blocks.json');
  // for a profile of the server: BENCH_ARGS='--cpu-prof --cpu-prof-dir=…'
  const more = (process.env.BENCH_ARGS ?? '').split(' ').filter(Boolean);
  const noting = ['--import', join(process.cwd(), 'tests/bench/blocks.mjs')];
  const args = [...noting, ...more];
  const bareFile = join(data, 'bare.json');
  const bare = spawn(process.execPath, [...noting, '-e', 'setInterval(() => {}, 1e6)'], { env: { ...process.env, BENCH_BLOCKS: bareFile }, stdio: 'inherit' }); // prettier-ignore
  const server = await startServer(data, { BRISK_DEMO_RECORDS: 'all', BRISK_CHECK_ANSWERS: 'no', BENCH_BLOCKS: file }, args);
  try {
    await ready(server);
    const cookie = await signedIn(server, 1);
    const maud = client(server.url, cookie, 16);
    const clerk = client(server.url, await signedIn(server, 2), 16);
    const other = new Asking(server.url, await signedIn(server, 3));
    const { made, asked } = await records(maud);
    const all = works(maud, clerk, server, cookie, made, asked);
    console.log(`\nThe longest block of the server’s main thread, ${SECONDS} s each`);
    const measured = async (name: string, turns: readonly Turn[]): Promise<{ own: Blocks; beside: Blocks }> => {
      // the first time round the server gets ready for it
      await until(0, turns);
      await Promise.all([blocksOf(server.process, file), blocksOf(bare, bareFile)]);
      await other.waits();
      const turned = await until(performance.now() + SECONDS * 1000, turns);
      const [own, beside] = await Promise.all([blocksOf(server.process, file), blocksOf(bare, bareFile)]);
      const waits = await other.waits();
      const wait = (share: number): string => (waits[Math.floor((waits.length - 1) * share)] ?? 0).toFixed(1);
      console.log(`  ${name.padEnd(36)} p99 ${own.p99.toFixed(1).padStart(6)}   longest ${own.longest.toFixed(0).padStart(5)} ms (bare process ${beside.longest.toFixed(0)})   ${String(turned).padStart(6)} turns   others wait ${wait(0.5)}, ${wait(0.99)}, at most ${wait(1)} ms`); // prettier-ignore
      return { own, beside };
    };
    const only = process.env.BENCH_ONLY;
    for (const [name, turns] of Object.entries(all)) if (!only || name.startsWith(only)) await measured(name, turns);
    if (only && only !== 'all') return await other.stop();
    const { own, beside } = await measured('all of it at once', Object.values(all).flat());
    goal({ what: 'the main thread is blocked while everything happens at once, at most', measured: own.longest, unit: 'ms', most: 50, beside: `p99 ${own.p99.toFixed(1)} ms; a bare process was kept waiting ${beside.longest.toFixed(0)} ms` }); // prettier-ignore
    await other.stop();
    for (const c of [maud, clerk]) c.close();
  } finally {
    bare.kill();
    await server.stop();
    rmSync(data, { recursive: true, force: true });
  }
}

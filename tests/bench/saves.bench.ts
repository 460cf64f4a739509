import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { goal } from './measure.ts';
import { type OwnServer, freePort, ready, signedIn, startServer } from '../e2e/server.ts';

/*
 * Durable saves a second over HTTP, by clients beside each other, of the demo's forms with records as they occur; and others' wait while
 * somebody does something large. Beside them what this machine can do: a bare handler that inserts the same four rows in one transaction
 * a request, and one whose requests of one turn share a transaction.
 */
const SECONDS = Number(process.env.BENCH_SECONDS ?? 4);
const root = process.cwd();
const widths = (process.env.BENCH_WIDTHS ?? '1,8,64').split(',').map(Number);

const at = (list: readonly number[], share: number): number => [...list].sort((a, b) => a - b)[Math.floor((list.length - 1) * share)] ?? 0;

interface Answered {
  readonly status: number;
  readonly text: string;
}
export interface Client {
  send(method: string, path: string, body?: unknown): Promise<Answered>;
  close(): void;
}
/** Keeps its connections, as browsers do. */
export function client(url: string, cookie: string, connections: number): Client {
  const agent = new Agent({ keepAlive: true, maxSockets: connections });
  return {
    close: () => agent.destroy(),
    send: (method, path, body) =>
      new Promise((done, fail) => {
        const text = body === undefined ? '' : JSON.stringify(body);
        const headers = { cookie, 'content-type': 'application/json', 'content-length': Buffer.byteLength(text) };
        const sent = request(`${url}${path}`, { method, agent, headers }, (r) => {
          let all = '';
          r.setEncoding('utf8');
          r.on('data', (c: string) => (all += c));
          r.on('end', () => done({ status: r.statusCode ?? 0, text: all }));
          r.on('error', fail);
        });
        sent.on('error', fail);
        sent.end(text);
      }),
  };
}

interface Rate {
  readonly perSecond: number;
  readonly p50: number;
  readonly p95: number;
  readonly longest: number;
}
/** So many clients that each send one request after another, for some seconds. */
async function rate(c: Client, width: number, next: () => readonly [string, unknown], seconds = SECONDS): Promise<Rate> {
  const waits: number[] = [];
  const run = async (until: number, keep: boolean): Promise<void> => {
    while (performance.now() < until) {
      const [path, body] = next();
      const began = performance.now();
      const { status, text } = await c.send('POST', path, body);
      if (status !== 200 && status !== 201) throw new Error(`${path}: ${status} ${text.slice(0, 500)}`);
      if (keep) waits.push(performance.now() - began);
    }
  };
  const beside = (until: number, keep: boolean) => Promise.all(Array.from({ length: width }, () => run(until, keep)));
  await beside(performance.now() + 1000, false);
  const began = performance.now();
  await beside(began + seconds * 1000, true);
  const took = (performance.now() - began) / 1000;
  return { perSecond: waits.length / took, p50: at(waits, 0.5), p95: at(waits, 0.95), longest: at(waits, 1) };
}
const said = (name: string, width: number, r: Rate): void =>
  console.log(
    `  ${name.padEnd(34)} ${String(width).padStart(3)} beside each other ${r.perSecond.toFixed(0).padStart(7)}/s   p50 ${r.p50.toFixed(1).padStart(6)} ms   p95 ${r.p95.toFixed(1).padStart(6)} ms   longest ${r.longest.toFixed(0).padStart(5)} ms`,
  );

/** A bare handler over the bare driver: what a durable insert of four rows costs on this machine. */
const BARE = `
import http from 'node:http';
import Database from 'better-sqlite3';
const [file, port, together] = process.argv.slice(2);
const db = new Database(file);
db.pragma('journal_mode = WAL'); db.pragma('synchronous = FULL');
for (const t of ['a', 'b', 'c', 'd']) db.exec('CREATE TABLE ' + t + ' (id INTEGER PRIMARY KEY, name TEXT, day TEXT, amount NUMERIC, note TEXT)');
const inserts = ['a', 'b', 'c', 'd'].map((t) => db.prepare('INSERT INTO ' + t + ' (name, day, amount, note) VALUES (?, ?, ?, ?)'));
const save = (b) => { let id; for (const i of inserts) id = i.run(b.name, b.day, b.amount, b.note).lastInsertRowid; return { id: Number(id) }; };
const one = db.transaction(save);
let waiting = [];
const all = db.transaction((list) => list.map(([b]) => save(b)));
http.createServer((req, res) => {
  let text = '';
  req.on('data', (c) => (text += c));
  req.on('end', () => {
    const body = JSON.parse(text);
    const answer = (a) => res.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(a));
    if (together !== 'yes') return answer(one(body));
    waiting.push([body, answer]);
    if (waiting.length === 1) setImmediate(() => { const list = waiting; waiting = []; all(list).forEach((a, i) => list[i][1](a)); });
  });
}).listen(Number(port), '127.0.0.1');
`;
async function bare(together: boolean): Promise<number> {
  const folder = mkdtempSync(join(root, 'node_modules/.brisk-bare-'));
  writeFileSync(join(folder, 'bare.mjs'), BARE);
  const port = await freePort();
  const child = spawn(process.execPath, [join(folder, 'bare.mjs'), join(folder, 'bare.sqlite'), String(port), together ? 'yes' : 'no'], { stdio: 'inherit' }); // prettier-ignore
  const c = client(`http://127.0.0.1:${port}`, '', 64);
  try {
    for (let i = 0; i < 100; i++) {
      if (await c.send('POST', '/', { name: 'x', day: '2026-01-01', amount: 1.25, note: null }).then(() => true, () => false)) break; // prettier-ignore
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    let n = 0;
    const next = () => ['/', { name: `Prick out ${n}`, day: '2026-11-02', amount: (n++ * 7.313) % 900, note: 'as ordered' }] as const;
    let widest = 0;
    for (const width of [1, 8, 64]) {
      const r = await rate(c, width, next);
      said(together ? 'bare, a turn shares a transaction' : 'bare, one transaction a request', width, r);
      widest = r.perSecond;
    }
    return widest;
  } finally {
    c.close();
    child.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What is saved: records of the demo's forms, each another. */
export interface Records {
  readonly made: Record<string, Next>;
  /** a request with so many lines */
  readonly asked: (lines: number) => Next;
}
export type Next = () => readonly [string, unknown];
export async function records(c: Client): Promise<Records> {
  let n = 0;
  const run = process.pid.toString(36);
  const save = (form: string, edits: readonly unknown[]) =>
    [`/api/forms/${form}/records`, { version: 1, edits, revision: null, request: `bench ${run} ${form} ${n}` }] as const;
  const set = (field: string, value: unknown, line?: number) => ({ kind: 'set', field, value, ...(line === undefined ? {} : { line }) });
  const rows = async (table: string): Promise<Record<string, unknown>[]> => {
    const { status, text } = await c.send('GET', `/api/tables/${table}/rows?limit=200`);
    if (status !== 200) throw new Error(text);
    return (JSON.parse(text) as { rows: { row: Record<string, unknown> }[] }).rows.map((r) => r.row);
  };
  const sites = (await rows('sites')).filter((s) => s.active === true);
  const species = (await rows('species')).filter((s) => s.active === true && s.protected !== true);
  const addresses = await rows('partner_addresses');
  const active = new Set(species.map((s) => s.id));
  const lots = (await rows('lots')).filter((l) => l.status === 'released' && Number(l.viability) >= 60 && active.has(l.species) && Number(l.quantity_g) > 40); // prettier-ignore
  const one = <T>(list: readonly T[], salt: number): T => list[(n * 7919 + salt * 31) % list.length]!;
  const under = ['germination', 'genetics', 'pathology', 'wet_heath', 'fen_meadow', 'borders', 'class_sowing'];
  const asked = (count: number) => () => {
    n++;
    const address = one(addresses, 3);
    const edits: unknown[] = [set('partner', address.partner), set('address', address.id), set('detail', one(under, 5)), set('method', one(['post', 'tracked', 'courier', 'collect'], 7))]; // prettier-ignore
    for (let line = 1; line <= count; line++) {
      const lot = one(lots, line);
      if (line > 1) edits.push({ kind: 'addLine', field: 'packets', line: -line });
      edits.push(set('packets.species', lot.species, -line), set('packets.lot', lot.id, -line), set('packets.packets', 1 + ((n + line) % 4), -line), set('packets.price', Number((2 + ((n * line * 7.313) % 9)).toFixed(2)), -line)); // prettier-ignore
    }
    return save('seed_request', edits);
  };
  const made: Record<string, Next> = {
    'bench task': () => {
      n++;
      const site = one(sites, 1);
      return save('bench_task', [set('task', `${one(['Prick out seedlings', 'Clean the corers', 'Turn the drying trays'], 2)} ${n}`), set('bench', `B${n % 7}`), set('day', '2026-11-02'), set('site', site.id)]); // prettier-ignore
    },
    // before the lots, which would make their table a large one
    'seed request, 3 lines': asked(3),
    'seed request, 20 lines': asked(20),
    'lot intake (series)': () => {
      n++;
      const site = one(sites, 1);
      return save('lot_intake', [set('species', one(species, 2).id), set('region', site.region), set('site', site.id), set('quantity_g', Number((1 + ((n * 7.313) % 900)).toFixed(2))), set('tsw_g', Number((0.05 + ((n * 0.7919) % 40)).toFixed(3))), set('purity', one(['clean', 'chaff'], 4))]); // prettier-ignore
    },
  };
  return { made, asked };
}

/** Asks who one is, over and over; gives on demand how long each answer took since it was asked last. */
const ASKING = `
const { workerData: { url, cookie }, parentPort } = require('node:worker_threads');
const { Agent, get } = require('node:http');
const agent = new Agent({ keepAlive: true, maxSockets: 1 });
let waits = [];
const ask = () => {
  const began = performance.now();
  get(url + '/api/session', { agent, headers: { cookie } }, (r) => {
    r.resume();
    r.on('end', () => { waits.push(performance.now() - began); setTimeout(ask, 3); });
  });
};
parentPort.on('message', () => { parentPort.postMessage(waits); waits = []; });
ask();
`;
/** Somebody who asks who they are, over and over, in a thread of their own: what the benchmark itself does is no wait of theirs. */
export class Asking {
  private readonly thread: Worker;
  constructor(url: string, cookie: string) {
    this.thread = new Worker(ASKING, { eval: true, workerData: { url, cookie } });
    // a server that was stopped after something failed: what failed is what is to be told
    this.thread.on('error', () => undefined);
  }
  /** How long each answer took since this was asked last, in ms, shortest first. */
  async waits(): Promise<number[]> {
    this.thread.postMessage('waits');
    const [waits] = (await once(this.thread, 'message')) as [number[]];
    return waits.sort((a, b) => a - b);
  }
  async stop(): Promise<void> {
    await this.thread.terminate();
  }
}

/** What others wait at most while somebody saves a request with a thousand lines. */
async function longSave(other: Asking, clerk: Client, asked: (lines: number) => Next): Promise<void> {
  const [path, body] = asked(1000)();
  let longest = 0;
  for (let round = 0; round < 3; round++) {
    await other.waits();
    const began = performance.now();
    const { status, text } = await clerk.send('POST', path, { ...(body as object), request: `long ${process.pid} ${round}` });
    if (status !== 200) throw new Error(text.slice(0, 300));
    const took = performance.now() - began;
    const waited = (await other.waits()).at(-1) ?? took;
    console.log(`  a save with 1,000 lines ${took.toFixed(0).padStart(6)} ms; others waited at most ${waited.toFixed(0)} ms`);
    longest = Math.max(longest, waited);
  }
  goal({ what: 'others wait while a request of 1,000 lines is saved, at most', measured: longest, unit: 'ms', most: 50 });
  await other.stop();
  clerk.close();
}

export default async function run(): Promise<void> {
  const only = process.env.BENCH_ONLY;
  console.log(`\nDurable saves over HTTP, ${SECONDS} s each`);
  let beside = '';
  if (!only) beside = `bare handler: ${(await bare(false)).toFixed(0)}/s, sharing ${(await bare(true)).toFixed(0)}/s`;
  const kept = process.env.BENCH_DATA;
  const data = kept ?? mkdtempSync(join(tmpdir(), 'brisk-acorn-bench-'));
  // for a profile of the server: BENCH_ARGS='--cpu-prof --cpu-prof-dir=…'
  const args = (process.env.BENCH_ARGS ?? '').split(' ').filter(Boolean);
  const server: OwnServer = await startServer(data, { BRISK_DEMO_RECORDS: 'all', BRISK_CHECK_ANSWERS: 'no' }, args);
  try {
    await ready(server);
    const maud = client(server.url, await signedIn(server, 1), 4);
    const cookies = await signedIn(server, 2);
    const { made, asked } = await records(maud);
    const least: Record<string, number> = { 'bench task': 2000, 'lot intake (series)': 1000, 'seed request, 3 lines': 500, 'seed request, 20 lines': 200 }; // prettier-ignore
    for (const [name, next] of Object.entries(made)) {
      if (only && !name.startsWith(only)) continue;
      for (const width of widths) {
        const c = client(server.url, cookies, width);
        const r = await rate(c, width, next);
        said(name, width, r);
        if (width === 64)
          goal({ what: `${name}, saved by 64 beside each other`, measured: r.perSecond, unit: '/s', least: least[name] ?? 0, beside });
        if (width === 1 && name.startsWith('lot')) goal({ what: `${name}, one alone, median`, measured: r.p50, unit: 'ms', most: 3 });
        c.close();
      }
    }
    if (!only || only === 'long') await longSave(new Asking(server.url, cookies), client(server.url, cookies, 4), asked);
    maud.close();
  } finally {
    await server.stop();
    if (kept === undefined) rmSync(data, { recursive: true, force: true });
  }
}

import { expect, onServer, reading, test } from './workspace';
import { type OwnServer, dataFolder, ready, signedIn, startServer } from './server';

/* What is acknowledged stays, whatever happens to the server; and servers beside each other on one file know of each other's writes. */

const running: OwnServer[] = [];
/** Where the servers of a test have their database: in its folder, or on a server. */
type Where = Record<string, string>;
const start = async (data: string, where: Where): Promise<OwnServer> => {
  const server = await startServer(data, where);
  running.push(server);
  await ready(server);
  return server;
};
test.afterEach(async () => {
  for (const server of running.splice(0)) await server.stop('SIGKILL');
});

interface Sent {
  readonly path: string;
  readonly body: { readonly request: string; readonly edits: readonly { readonly value: unknown }[] };
}
const set = (field: string, value: unknown) => ({ kind: 'set', field, value });
/** A task, a lot with a number of its own, or a task that may not be saved, in turn. */
function next(n: number, lot: readonly unknown[]): Sent {
  const form = n % 3 === 1 ? 'lot_intake' : 'bench_task';
  const edits = n % 3 === 1 ? [...lot, set('quantity_g', 1 + n / 4)] : n % 3 === 0 ? [set('task', `Turn tray ${n}`)] : [set('bench', 'B1')];
  return { path: `/api/forms/${form}/records`, body: { version: 1, edits, revision: null, request: `durable ${process.pid} ${n}` } as Sent['body'] }; // prettier-ignore
}
const post = (server: OwnServer, cookie: string, { path, body }: Sent): Promise<Response> =>
  fetch(`${server.url}${path}`, { method: 'POST', headers: { cookie, 'content-type': 'application/json' }, body: JSON.stringify(body) });

/** What a lot needs, of the demo’s data. */
async function lotEdits(data: string, where: Where): Promise<readonly unknown[]> {
  const db = await reading(data, where);
  const [plant] = await db.all<{ id: number }>('SELECT id FROM data_species WHERE active = 1 AND protected = 0 ORDER BY id LIMIT 1');
  const [site] = await db.all<{ id: number; region: number }>('SELECT id, region FROM data_sites WHERE active = 1 ORDER BY id LIMIT 1');
  await db.close();
  return [set('species', plant!.id), set('region', site!.region), set('site', site!.id)];
}

test('a server killed under load has lost no save that it acknowledged, and left none half', async () => {
  const data = dataFolder();
  const where = await onServer('empty');
  let n = 0;
  let lot: readonly unknown[] | null = null;
  const saved = new Map<string, { readonly sent: Sent; readonly id: number; readonly text: string }>();
  for (let round = 0; round < 4; round++) {
    const server = await start(data, where);
    lot ??= await lotEdits(data, where);
    const needed = lot;
    const cookie = await signedIn(server, 2);
    const save = async (): Promise<void> => {
      for (;;) {
        const sent = next(n++, needed);
        const answer = await post(server, cookie, sent).catch(() => null);
        const text = await answer?.text().catch(() => null);
        if (!answer || typeof text !== 'string') return;
        if (answer.status === 200) saved.set(sent.body.request, { sent, id: (JSON.parse(text) as { id: number }).id, text });
        else expect(answer.status, text).toBe(422);
      }
    };
    const all = Array.from({ length: 16 }, save);
    // in the midst of them, however quick the machine is
    await expect.poll(() => saved.size, { timeout: 60_000, intervals: [20] }).toBeGreaterThan(30 * (round + 1));
    await new Promise((resolve) => setTimeout(resolve, 50 * round));
    await server.stop('SIGKILL');
    await Promise.all(all);
  }
  expect(saved.size).toBeGreaterThan(100);
  const server = await start(data, where);
  const cookie = await signedIn(server, 2);
  // asked again, each is what it was, and is not saved twice
  for (const { sent, text } of [...saved.values()].slice(-30)) expect(await (await post(server, cookie, sent)).text()).toBe(text);
  await server.stop();
  const db = await reading(data, where);
  const ids = async (sql: string): Promise<unknown[]> => (await db.all<{ id: number }>(sql)).map((r) => Number(r.id));
  const there = { lots: new Set(await ids('SELECT id FROM data_lots')), tasks: new Set(await ids('SELECT id FROM data_bench_tasks')) };
  for (const { sent, id } of saved.values()) expect(there[sent.path.includes('lot') ? 'lots' : 'tasks'].has(id), sent.body.request).toBe(true);
  // whatever was written was written whole: a record, its history, its origins, and the answer to its request
  for (const [table, of] of [['data_bench_tasks', 'bench_tasks'], ['data_lots', 'lots']] as const) {
    const all = await ids(`SELECT id FROM ${table} ORDER BY id`);
    expect(await ids(`SELECT DISTINCT row_id AS id FROM history WHERE table_key = '${of}' AND kind = 'created' ORDER BY row_id`)).toEqual(all);
    expect(await ids(`SELECT row_id AS id FROM origins WHERE table_key = '${of}' ORDER BY row_id`)).toEqual(all);
  }
  const count = async (from: string): Promise<number> => Number((await db.all<{ n: number }>(`SELECT count(*) AS n FROM ${from}`))[0]!.n);
  const made = await count(`data_bench_tasks WHERE task LIKE 'Turn tray %'`);
  const lots = await db.all<{ code: string }>(`SELECT code FROM data_lots WHERE code LIKE 'MF-%' ORDER BY code`);
  expect(await count(`requests WHERE key LIKE 'durable %'`)).toBeGreaterThanOrEqual(saved.size);
  // the numbers of lots have neither gaps nor doubles
  for (const year of new Set(lots.map((l) => l.code.slice(0, 8)))) {
    const codes = lots.map((l) => l.code).filter((c) => c.startsWith(year));
    expect(codes).toEqual(codes.map((_, i) => `${year}${String(i + 1).padStart(4, '0')}`));
  }
  expect(made + lots.length).toBeGreaterThanOrEqual(saved.size);
  await db.close();
}); // prettier-ignore

test('servers on one file see what the other has written: rows, sign-ins, versions, numbers', async () => {
  const data = dataFolder();
  const where = await onServer('empty');
  const one = await start(data, where);
  const other = await start(data, where);
  const lot = await lotEdits(data, where);
  // a session begun with one is one with the other
  const maud = await signedIn(one, 1);
  const ida = await signedIn(other, 2);
  const get = async (server: OwnServer, path: string, cookie = maud): Promise<Record<string, unknown>> =>
    (await (await fetch(`${server.url}${path}`, { headers: { cookie } })).json()) as Record<string, unknown>;
  const send = async (server: OwnServer, method: string, path: string, body: unknown): Promise<Record<string, unknown>> => {
    const answer = await fetch(`${server.url}${path}`, { method, headers: { cookie: maud, 'content-type': 'application/json' }, body: JSON.stringify(body) }); // prettier-ignore
    expect(answer.ok, await answer.clone().text()).toBe(true);
    return (await answer.json()) as Record<string, unknown>;
  };
  expect(await get(other, '/api/session', maud)).toMatchObject({ account: { name: 'Maud Alder' } });
  // a row of a small table, kept by both by now
  const offered = async (server: OwnServer): Promise<string> => JSON.stringify(await get(server, '/api/forms/lot_intake/entry', ida));
  expect([await offered(one), await offered(other)].map((t) => t.includes('Quaking Fen'))).toEqual([false, false]);
  const { rows } = (await get(one, '/api/tables/regions/rows?limit=5')) as { rows: { row: { id: number }; revision: number }[] };
  const revision = rows.find((r) => r.row.id === 1)!.revision;
  await send(one, 'PATCH', '/api/tables/regions/rows/1', { revision, values: { name: 'Quaking Fen' } });
  // servers on a file look for themselves; those on a database server are told, a moment later
  await expect.poll(async () => [await offered(one), await offered(other)].map((t) => t.includes('Quaking Fen')), { intervals: [20] }).toEqual([true, true]); // prettier-ignore
  // a version published by the other
  const { draft, revision: before } = (await get(other, '/api/forms/bench_task/draft')) as { draft: { label: string }; revision: number };
  await send(other, 'PUT', '/api/forms/bench_task/draft', { draft: { ...draft, label: 'Work at the bench' }, revision: before });
  await send(other, 'POST', '/api/forms/bench_task/publish', { revision: before + 1 });
  const versions = async (): Promise<unknown[]> => [(await get(one, '/api/forms/bench_task/entry', ida)).version, (await get(other, '/api/forms/bench_task/entry', ida)).version]; // prettier-ignore
  await expect.poll(versions, { intervals: [20] }).toEqual([2, 2]);
  // numbers of one series, taken by both at once
  const saves = Array.from({ length: 30 }, (_, n) => post(n % 2 ? one : other, ida, { path: '/api/forms/lot_intake/records', body: { version: 1, edits: [...lot, set('quantity_g', n + 1)], revision: null, request: `both servers ${n}` } as unknown as Sent['body'] })); // prettier-ignore
  const codes = await Promise.all(
    (await Promise.all(saves)).map(async (answer) => {
      expect(answer.status, await answer.clone().text()).toBe(200);
      return ((await answer.json()) as { values: { code: string } }).values.code;
    }),
  );
  const numbers = codes.map((c) => Number(c.slice(-4))).sort((a, b) => a - b);
  expect(numbers).toEqual(Array.from({ length: 30 }, (_, i) => numbers[0]! + i));
  // signed out with one, signed out with the other
  await fetch(`${one.url}/api/session`, { method: 'DELETE', headers: { cookie: maud } });
  await expect.poll(() => get(other, '/api/session', maud), { intervals: [20] }).toMatchObject({ account: null });
}); // prettier-ignore

import { existsSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './workspace';
import Database from 'better-sqlite3';
import { type OwnServer, dataFolder, freePort, ready, signedIn, startServer } from './server';

/* How the server starts, stops, and says what is in its way: each test has a server and a folder of its own. */

const file = (data: string): string => join(data, 'brisk-acorn.sqlite');
const running: OwnServer[] = [];
const start = async (data: string, more: Record<string, string> = {}): Promise<OwnServer> => {
  const server = await startServer(data, more);
  running.push(server);
  return server;
};
test.afterEach(async () => {
  for (const server of running.splice(0)) await server.stop('SIGKILL');
});

/** What a server wrote, when it is one sentence and no trace of our code. */
function expectSentence(output: string, sentence: RegExp): void {
  expect(output).toMatch(sentence);
  expect(output).not.toMatch(/\n\s+at |node_modules/);
}

test('a first start that is killed goes on or starts over: never half a demo', async () => {
  const data = dataFolder();
  for (const after of [60, 150, 300, 600, 1000, 1500]) {
    const server = await startServer(data);
    await new Promise((resolve) => setTimeout(resolve, after));
    await server.stop('SIGKILL');
    // what counts is there whole, or not at all
    if (!existsSync(file(data))) continue;
    const db = new Database(file(data), { readonly: true });
    expect(db.prepare('SELECT count(*) AS n FROM form_versions').get()).toMatchObject({ n: 4 });
    db.close();
  }
  const server = await start(data);
  await ready(server);
  const { demo } = (await (await fetch(`${server.url}/api/session`)).json()) as { demo: unknown[] };
  expect(demo).toHaveLength(5);
  expect(await server.stop()).toBe(0);
  const db = new Database(file(data), { readonly: true });
  expect(db.prepare('SELECT count(*) AS n FROM data_lots').get()).toEqual({ n: 50 });
  expect(db.prepare('SELECT count(*) AS n FROM data_bench_tasks').get()).toEqual({ n: 8 });
  db.close();
});

test('a start that was killed while it migrated has left its lock, which holds nobody up', async () => {
  const data = dataFolder();
  const first = await start(data);
  await ready(first);
  await first.stop();
  const db = new Database(file(data));
  db.prepare('UPDATE knex_migrations_lock SET is_locked = 1').run();
  db.close();
  await ready(await start(data));
});

test('a clean stop leaves one whole file', async () => {
  const data = dataFolder();
  const server = await start(data);
  await ready(server);
  expect(readdirSync(data)).toContain('brisk-acorn.sqlite-wal');
  expect(await server.stop()).toBe(0);
  expect(readdirSync(data).filter((f) => f.startsWith('brisk-acorn'))).toEqual(['brisk-acorn.sqlite']);
  const db = new Database(file(data), { readonly: true });
  expect(db.pragma('integrity_check')).toEqual([{ integrity_check: 'ok' }]);
  db.close();
});

test('a port in use, a folder that is none, a file that is no database: one sentence each, and the server ends', async () => {
  const port = String(await freePort());
  const first = await start(dataFolder(), { PORT: port });
  await ready(first);
  const second = await start(dataFolder(), { PORT: port });
  expect(await second.ended).toBe(1);
  expectSentence(second.output(), /The port is taken by another program/);

  const none = join(dataFolder(), 'a file');
  writeFileSync(none, 'not a folder');
  const third = await start(none);
  expect(await third.ended).toBe(1);
  expectSentence(third.output(), /BRISK_DATA/);

  const data = dataFolder();
  writeFileSync(file(data), 'this is no database at all, however long one makes it '.repeat(100));
  const fourth = await start(data);
  expect(await fourth.ended).toBe(1);
  expectSentence(fourth.output(), /is no database/);
});

test('a database that another program holds: health says so, a save is refused with a sentence, and it goes on afterwards', async () => {
  const data = dataFolder();
  const server = await start(data);
  await ready(server);
  const cookie = await signedIn(server);
  const holder = new Database(file(data));
  holder.exec('BEGIN EXCLUSIVE');
  const add = (): Promise<Response> =>
    fetch(`${server.url}/api/tables/families/rows`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie },
      body: JSON.stringify({ values: { name: 'Heldaceae' } }),
    });
  const [refused, health] = await Promise.all([
    add(),
    // asked anew only after a while
    new Promise((resolve) => setTimeout(resolve, 5100)).then(() => fetch(`${server.url}/api/health`)),
  ]);
  expect(refused.status).toBe(503);
  expect(((await refused.json()) as { message: string }).message).toMatch(/Another program holds the database/);
  expect(health.status).toBe(503);
  expect(((await health.json()) as { message: string }).message).toMatch(/Another program holds the database/);
  holder.exec('ROLLBACK');
  holder.close();
  expect((await add()).status).toBe(200);
});

test('a definition that cannot be read is shown as broken, and takes no other with it', async () => {
  const data = dataFolder();
  const first = await start(data);
  await ready(first);
  await first.stop();
  const db = new Database(file(data));
  const long = JSON.stringify([{ value: 'x'.repeat(300), label: 'x', depth: 0 }]);
  db.prepare(`INSERT INTO option_lists (key, label, items, changed_at) VALUES ('broken', 'Broken', ?, '2026-01-01')`).run(long);
  db.prepare(`INSERT INTO feeds (key, label, definition, changed_at) VALUES ('broken', 'Broken', 'no json', '2026-01-01')`).run();
  db.prepare(`UPDATE forms SET draft = '{"key":"bench_task"}' WHERE key = 'bench_task'`).run();
  db.close();
  const server = await start(data);
  await ready(server);
  const cookie = await signedIn(server);
  const get = async (path: string): Promise<{ status: number; body: Record<string, unknown> & Record<string, unknown>[] }> => {
    const r = await fetch(`${server.url}/api/${path}`, { headers: { cookie } });
    return { status: r.status, body: (await r.json()) as never };
  };
  const lists = await get('lists');
  expect(lists.body.find((l) => l.key === 'broken')).toMatchObject({ broken: expect.stringContaining('cannot be read') });
  expect(lists.body.find((l) => l.key === 'purposes')).toMatchObject({ broken: null });
  const feeds = (await get('feeds')).body.feeds as Record<string, unknown>[];
  expect(feeds.find((f) => f.key === 'broken')).toMatchObject({ broken: expect.stringContaining('cannot be read') });
  const forms = await get('forms');
  expect(forms.body.find((f) => f.key === 'bench_task')).toMatchObject({ broken: expect.stringContaining('cannot be read') });
  expect((await get('forms/bench_task/draft')).status).toBe(422);
  // what clerks use was published before, and others are as they were
  for (const form of ['bench_task', 'lot_intake', 'seed_request']) expect((await get(`forms/${form}/entry`)).status, form).toBe(200);
  expect((await get('forms/seed_request/draft')).status).toBe(200);
});

import { createHash } from 'node:crypto';
import { request as httpRequest } from 'node:http';
import { type APIRequestContext, request as requests } from '@playwright/test';
import { expect, test } from './workspace';
import Database from 'better-sqlite3';
import { strToU8, zipSync } from 'fflate';
import { join } from 'node:path';
import { runJob, signInHttp, upload } from './helpers';
import { type OwnServer, dataFolder, ready, startServer } from './server';

/* What the running server does when it is asked for too much, for what is not theirs, or for what cannot be. */

let server: OwnServer;
const data = dataFolder();
test.beforeAll(async () => {
  server = await startServer(data, { BRISK_SESSION_IDLE_MINUTES: '30' });
  await ready(server);
});
test.afterAll(async () => {
  await server.stop();
});

const contexts: APIRequestContext[] = [];
const as = async (email: string | null): Promise<APIRequestContext> => {
  const context = await requests.newContext({ baseURL: server.url });
  contexts.push(context);
  if (email) await signInHttp(context, `${email}@marrowfen.example`);
  return context;
};
test.afterEach(async () => {
  for (const context of contexts.splice(0)) await context.dispose();
});
interface Told {
  readonly status: number;
  readonly message: string;
  readonly id: number;
  readonly version: number;
  readonly values: Readonly<Record<string, unknown>>;
  readonly issues: Readonly<Record<string, string>>;
}
const body = async (answer: Promise<{ status(): number; json(): Promise<unknown> }>): Promise<Told> => {
  const got = await answer;
  return { ...((await got.json()) as Told), status: got.status() };
};

interface Opened {
  readonly version: number;
  readonly context: { readonly now: string };
  readonly feeds: readonly { readonly key: string; readonly url: string; readonly headers: unknown[] }[];
  readonly tables: readonly { readonly key: string; readonly columns: readonly { readonly key: string }[] }[];
  readonly record: { readonly revision: number; readonly values: Record<string, unknown> } | null;
  readonly answered: readonly {
    readonly want: { readonly kind: string; readonly table?: string };
    readonly answer: { readonly rows?: ({ id: number } & Record<string, unknown>)[] };
  }[];
}
const open = async (context: APIRequestContext, form = 'lot_intake', id: number | null = null): Promise<Opened> => {
  const answer = await context.get(`/api/forms/${form}/${id === null ? 'entry' : `records/${id}`}`);
  expect(answer.status(), await answer.text()).toBe(200);
  return (await answer.json()) as Opened;
};
const rowsOf = (opened: Opened, table: string) => opened.answered.find((a) => a.want.table === table)?.answer.rows ?? [];
const set = (field: string, value: unknown) => ({ kind: 'set', field, value });
/** A feed as it is sent to be saved: without what the server tells about it. */
const definitionOf = (feed: Record<string, unknown>): Record<string, unknown> =>
  Object.fromEntries(Object.entries(feed).filter(([name]) => !['revision', 'broken', 'secrets', 'usedBy'].includes(name)));
let unique = 0;
const key = (): string => `guard ${process.pid} ${++unique}`;

/** Edits that make a lot that may be saved. */
function aLot(opened: Opened, quantity = 5): { kind: string; field: string; value: unknown }[] {
  const site = rowsOf(opened, 'sites').find((s) => s.active);
  const robur = rowsOf(opened, 'species').find((s) => s.name === 'Quercus robur');
  return [set('species', robur?.id), set('region', site?.region), set('site', site?.id), set('quantity_g', quantity)];
}
const save = (context: APIRequestContext, opened: Opened, edits: unknown[], more: object = {}) =>
  body(
    context.post('/api/forms/lot_intake/records', { data: { version: opened.version, edits, revision: null, request: key(), ...more } }),
  );

test.describe('what a person sends has a bound', () => {
  test('an option list that could not be read is not made, and takes nothing down', async () => {
    const maud = await as('maud');
    const make = (outline: string) => body(maud.post('/api/lists', { data: { label: 'Limits', outline } }));
    const deep = Array.from({ length: 23 }, (_, i) => `${' '.repeat(2 * i)}level ${i}`).join('\n');
    const many = Array.from({ length: 20_001 }, (_, i) => `choice ${i}`).join('\n');
    for (const [outline, message] of [
      ['x'.repeat(201), /longer than 200 characters/],
      [deep, /at most 21 levels/],
      [many, /at most 20,000 choices/],
      ['one = First\none = Second', /store the same value “one”/],
      ['lone \ud800 half', /cannot be kept/],
    ] as const) {
      const { status, message: told } = await make(outline);
      expect(status, told).toBeGreaterThanOrEqual(400);
      expect(status, told).toBeLessThan(500);
      expect(told).toMatch(message);
    }
    expect((await make('one\n  two')).status).toBe(200);
    expect((await maud.get('/api/lists')).status()).toBe(200);
    expect((await maud.get('/api/forms')).status()).toBe(200);
    await open(maud);
  });

  test('a body is read no further than it may be, before anybody has signed in', async () => {
    const pour = (path: string, chunks: number): Promise<{ status: number; sent: number }> =>
      new Promise((resolve, reject) => {
        const asked = httpRequest(`${server.url}${path}`, { method: 'POST', headers: { 'content-type': 'application/json' } });
        let sent = 0;
        let done = false;
        asked.on('response', (answer) => {
          done = true;
          answer.resume();
          resolve({ status: answer.statusCode ?? 0, sent });
        });
        // the server ends the connection while more is being sent
        asked.on('error', (e) => (done ? undefined : reject(e)));
        const chunk = Buffer.alloc(64_000, 'x');
        const go = (): void => {
          if (done || sent >= chunks) return void asked.end();
          sent++;
          if (asked.write(chunk)) setImmediate(go);
          else asked.once('drain', go);
        };
        go();
      });
    // no length is told beforehand: what counts is what comes
    const { status, sent } = await pour('/api/session', 10_000);
    expect(status).toBe(413);
    expect(sent).toBeLessThan(1000);
    const long = await as(null);
    const told = await body(long.post('/api/session', { data: { email: 'a', password: 'x'.repeat(50_000) } }));
    expect(told.status).toBe(413);
    expect(told.message).toMatch(/At most 10 kB/);
  });

  test('a small workbook with a cell in the last row, and JSON nested without end, are read or refused while others go on', async () => {
    const maud = await as('maud');
    const sheet = (cells: string): Buffer =>
      Buffer.from(
        zipSync({
          '[Content_Types].xml': strToU8(
            '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>',
          ),
          '_rels/.rels': strToU8(
            '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>',
          ),
          'xl/workbook.xml': strToU8(
            '<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>',
          ),
          'xl/_rels/workbook.xml.rels': strToU8(
            '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>',
          ),
          'xl/worksheets/sheet1.xml': strToU8(
            `<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>${cells}</sheetData></worksheet>`,
          ),
        }),
      );
    const cell = (at: string, text: string): string => `<c r="${at}" t="inlineStr"><is><t>${text}</t></is></c>`;
    const row = (n: number, cells: string): string => `<row r="${n}">${cells}</row>`;
    const far = sheet(row(1, cell('A1', 'name') + cell('B1', 'size')) + row(2, cell('A2', 'Fen') + cell('B2', '1')) + row(1_048_576, cell('A1048576', 'Far') + cell('B1048576', '2'))); // prettier-ignore
    const wide = sheet(row(1, cell('A1', 'name')) + row(1_048_576, cell('OJ1048576', 'x')));
    const health = { worst: 0, asked: 0, over: false };
    const watching = (async () => {
      while (!health.over) {
        const began = Date.now();
        expect((await fetch(`${server.url}/api/health`)).status).toBe(200);
        health.worst = Math.max(health.worst, Date.now() - began);
        health.asked++;
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
    })();
    const guess = async (name: string, content: Buffer) =>
      runJob(maud, '/api/imports/guess', { upload: await upload(maud, name, content) });
    const read = await guess('far.xlsx', far);
    expect(read.state, JSON.stringify(read.error)).toBe('done');
    expect(JSON.stringify(read.result)).toContain('"name"');
    await guess('wide.xlsx', wide);
    const nested = await guess('deep.json', Buffer.from(`${'['.repeat(2_000_000)}`));
    expect(nested.state).toBe('failed');
    const bulky = await guess('bulky.json', Buffer.from(`[${'{"name":"a","size":1},'.repeat(200_000)}{"name":"b","size":2}]`));
    expect(bulky.state).toBe('done');
    health.over = true;
    await watching;
    // that others are answered at all while it is read is what is tested here; how fast, is measured elsewhere
    expect(health.asked).toBeGreaterThan(5);
  });

  test('characters, names and numbers that cannot be kept are refused with a sentence, not altered', async () => {
    const ida = await as('ida');
    const opened = await open(ida);
    const refused = async (edits: unknown, message: RegExp): Promise<void> => {
      const raw = `{"version":${opened.version},"revision":null,"request":"${key()}","edits":${typeof edits === 'string' ? edits : JSON.stringify(edits)}}`;
      const answer = await ida.post('/api/forms/lot_intake/records', { data: Buffer.from(raw), headers: { 'content-type': 'application/json' } }); // prettier-ignore
      const text = await answer.text();
      expect([400, 422], text).toContain(answer.status());
      expect(text).toMatch(message);
    };
    const lot = JSON.stringify(aLot(opened)).slice(1, -1);
    await refused(`[${lot},{"kind":"set","field":"code","value":"a\\ud800b"}]`, /cannot be kept|half of a character/);
    await refused(`[${lot},{"kind":"set","field":"code","value":"a\\u0000b"}]`, /cannot be kept|NUL/);
    await refused(`[${lot},{"kind":"set","field":"__proto__","value":1}]`, /no field/);
    await refused(`[${lot},{"__proto__":{"x":1},"kind":"set","field":"code","value":"x"}]`, /__proto__/);
    await refused(`[${lot},{"kind":"set","field":"quantity_g","value":1234567890.1234567890}]`, /digits/);
    await refused(`[${lot},{"kind":"set","field":"quantity_g","value":12345678901234567890}]`, /digits/);
    await refused(`[${lot},{"kind":"set","field":"quantity_g","value":1e999}]`, /number/);
    await refused(`${'['.repeat(200)}${']'.repeat(200)}`, /nested/);
    const maud = await as('maud');
    const row = await body(maud.post('/api/tables/families/rows', { data: { values: { name: 'nul \u0000' } } }));
    expect(row.status).toBe(400);
    const number = await body(maud.post('/api/tables/species/rows', { data: { values: { name: 'Long', germination_days: 1234567890123456 } } })); // prettier-ignore
    expect(number.status).toBe(422);
  });
});

test.describe('signing in', () => {
  test('guesses at once are counted as one after the other, and the owner is not kept out for long', async () => {
    const nobody = await as(null);
    const guesses = await Promise.all(
      Array.from({ length: 60 }, (_, i) => nobody.post('/api/session', { data: { email: 'tom@marrowfen.example', password: `guess ${i}` } })), // prettier-ignore
    );
    const statuses = guesses.map((g) => g.status());
    expect(statuses.filter((s) => s === 401).length).toBe(8);
    expect(statuses.filter((s) => s === 429).length).toBe(52);
    const wait = Number(guesses.find((g) => g.status() === 429)?.headers()['retry-after']);
    expect(wait).toBeGreaterThan(0);
    expect(wait).toBeLessThanOrEqual(2);
    // with the right password, as soon as the short wait is over
    await new Promise((resolve) => setTimeout(resolve, wait * 1000 + 50));
    await signInHttp(nobody, 'tom@marrowfen.example');
  });

  test('one password tried on many accounts is slowed down too', async () => {
    // an own server: these tests all come from one address
    const own = await startServer(dataFolder());
    await ready(own);
    const statuses: number[] = [];
    for (let i = 0; i < 45; i++) {
      const r = await fetch(`${own.url}/api/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email: `somebody${i}@marrowfen.example`, password: 'spring2026' }),
      });
      statuses.push(r.status);
    }
    await own.stop('SIGKILL');
    expect(statuses.slice(0, 40).every((s) => s === 401)).toBe(true);
    expect(statuses.filter((s) => s === 429).length).toBeGreaterThan(0);
  });

  test('a session ends at sign-out, after idling, at its age and when the account is changed, whatever the browser keeps', async () => {
    const cookieOf = async (email: string): Promise<string> => {
      const r = await fetch(`${server.url}/api/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email: `${email}@marrowfen.example`, password: 'fen-and-marsh' }),
      });
      const cookie = r.headers.get('set-cookie') ?? '';
      expect(cookie).toMatch(/HttpOnly/i);
      expect(cookie).toMatch(/SameSite=Strict/i);
      return cookie.split(';')[0] ?? '';
    };
    const status = async (cookie: string): Promise<number> =>
      (await fetch(`${server.url}/api/forms/lot_intake/records`, { headers: { cookie } })).status;
    const [ida, nell, tom, peg] = [await cookieOf('ida'), await cookieOf('nell'), await cookieOf('tom'), await cookieOf('peg')];
    for (const cookie of [ida, nell, tom, peg]) expect(await status(cookie)).toBe(200);

    await fetch(`${server.url}/api/session`, { method: 'DELETE', headers: { cookie: ida } });
    expect(await status(ida)).toBe(401);

    const db = new Database(join(data, 'brisk-acorn.sqlite'));
    const token = (cookie: string): string =>
      createHash('sha256')
        .update(cookie.split('=')[1] ?? '')
        .digest('hex');
    // what the database keeps does not let anybody in
    expect(db.prepare('SELECT count(*) AS n FROM sessions WHERE token = ?').get(nell.split('=')[1])).toEqual({ n: 0 });
    db.prepare('UPDATE sessions SET used = used - 31 * 60000 WHERE token = ?').run(token(nell));
    expect(await status(nell)).toBe(401);
    db.prepare('UPDATE sessions SET began = began - 15 * 3600000 WHERE token = ?').run(token(tom));
    expect(await status(tom)).toBe(401);
    db.prepare(`UPDATE accounts SET roles = '["clerk"]' WHERE email = 'peg@marrowfen.example'`).run();
    expect(await status(peg)).toBe(401);
    db.prepare(`UPDATE accounts SET roles = '["administrator"]' WHERE email = 'peg@marrowfen.example'`).run();
    db.close();
    // a token somebody made up
    expect(await status('brisk_session=aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa')).toBe(401);
  });

  test('the cookie is for TLS alone unless plain HTTP is said', async () => {
    const own = await startServer(dataFolder(), { BRISK_PLAIN_HTTP: 'no' });
    await ready(own);
    const r = await fetch(`${own.url}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ demo: 1 }),
    });
    await own.stop('SIGKILL');
    expect(r.headers.get('set-cookie')).toMatch(/; Secure/i);
  });
});

test.describe('a clerk is told what a form gives them, and no more', () => {
  test('wants and rows: only what the form reads, at fields it shows', async () => {
    const ida = await as('ida');
    const opened = await open(ida);
    const ask = async (want: object, form = 'lot_intake', version = opened.version) => {
      const got = await ida.post(`/api/forms/${form}/wants`, { data: { version, wants: [want] } });
      expect(got.status(), await got.text()).toBe(200);
      return ((await got.json()) as { answer: { kind: string; reason?: string; rows?: Record<string, unknown>[] } }[])[0]?.answer;
    };
    // requests and partners are none of the lot intake's
    for (const table of ['partners', 'requests', 'germination_tests', 'price_bands'])
      expect(await ask({ kind: 'table', table })).toEqual({ kind: 'failed', reason: 'This form does not read that table.' });
    expect(await ask({ kind: 'row', table: 'partners', id: 1 })).toMatchObject({ kind: 'failed' });
    expect(await ask({ kind: 'series', series: 'invoices 2026' })).toMatchObject({ kind: 'failed' });
    expect(await ask({ kind: 'feed', feed: 'weather', params: { site: 'Ash Ghyll', day: '2026-05-04' } })).toMatchObject({
      kind: 'failed',
    });
    expect(await ask({ kind: 'last', column: 'viability', value: null })).toBeDefined();
    // a table it reads: without the columns it does not
    const people = await ask({ kind: 'table', table: 'people' });
    expect(Object.keys(people?.rows?.[0] ?? {})).not.toContain('manager');
    const sites = await ask({ kind: 'table', table: 'sites' });
    expect(sites?.rows?.length).toBeGreaterThan(10);
    expect(Object.keys(sites?.rows?.[0] ?? {})).not.toContain('landowner');
    expect(opened.tables.map((t) => t.key)).not.toContain('partners');
    expect(opened.tables.find((t) => t.key === 'sites')?.columns.map((c) => c.key)).not.toContain('landowner');
    // a row to look at: where a form offers such rows
    expect((await ida.get('/api/tables/price_bands/rows/1')).status()).toBe(403);
    expect((await ida.get('/api/tables/holidays/rows/1')).status()).toBe(403);
    expect((await ida.get('/api/tables/sites/rows/1')).status()).toBe(200);
  });

  test('feeds: neither where they are asked nor with what leaves the server', async () => {
    const maud = await as('maud');
    const feeds = ((await (await maud.get('/api/feeds')).json()) as { feeds: Record<string, unknown>[] }).feeds;
    const check = feeds.find((f) => f.key === 'name_check') as Record<string, unknown> & { revision: number };
    const { revision } = check;
    const feed = definitionOf(check);
    const put = await maud.put('/api/feeds/name_check', {
      data: {
        feed: {
          ...feed,
          headers: [
            { name: 'X-Key', value: null },
            { name: 'X-Open', value: 'to be read by nobody' },
          ],
        },
        secrets: { 'X-Key': 'a very secret key' },
        revision,
      },
    });
    expect(put.status(), await put.text()).toBe(200);
    const ida = await as('ida');
    const text = await (await ida.get('/api/forms/lot_intake/entry')).text();
    for (const secret of ['standins/', 'X-Key', 'X-Open', 'nobody', 'secret key', 'matches']) expect(text).not.toContain(secret);
    expect(text).toContain('name_check');
    expect(await (await maud.get('/api/feeds')).text()).not.toContain('secret key');
    expect((await ida.get('/api/feeds')).status()).toBe(403);
  });

  test('what a form hides from them is neither sent nor taken', async () => {
    const nell = await as('nell');
    const forNell = await open(nell);
    const saved = await save(nell, forNell, [
      ...aLot(forNell),
      { kind: 'move', field: 'status', move: 'quarantine' },
      set('viability', 71),
      set('quarantine_from', '2026-03-01'),
    ]);
    expect(saved.status, JSON.stringify(saved)).toBe(200);
    const id = saved.id;
    const ida = await as('ida');
    const seen = await open(ida, 'lot_intake', id);
    expect(seen.record?.values.quantity_g).toBe(5);
    for (const column of ['viability', 'quarantine_from']) expect(seen.record?.values[column] ?? null, column).toBeNull();
    const list = (await (await ida.get('/api/forms/lot_intake/records?limit=500')).json()) as { rows: object[]; columns: object[] };
    expect(list.rows.length).toBeGreaterThan(10);
    expect(JSON.stringify([list.rows, list.columns])).not.toContain('viability');
    expect(await (await ida.get(`/api/forms/lot_intake/records/${id}/history`)).text()).not.toContain('viability');
    const look = await ida.get(`/api/tables/lots/rows/${id}`);
    if (look.ok()) expect(await look.text()).not.toContain('viability');
    // written over HTTP it is refused at its field, for new records and old ones
    const forged = await save(ida, await open(ida), [...aLot(forNell), set('viability', 99)]);
    expect(forged.status).toBe(422);
    expect(forged.issues.viability).toMatch(/not shown to you/);
    const change = (edits: unknown[]) =>
      body(
        ida.put(`/api/forms/lot_intake/records/${id}`, {
          data: { version: seen.version, edits, revision: seen.record?.revision, request: key() },
        }),
      );
    for (const [field, value] of [
      ['status', 'released'],
      ['checked_by', 1],
    ] as const) {
      const { status, issues } = await change([set(field, value)]);
      expect(status, field).toBe(422);
      expect(Object.keys(issues ?? {})).toContain(field);
    }
    // what they may change is saved, and what they were not shown stays as it was
    expect((await change([set('quantity_g', 6)])).status).toBe(200);
    expect((await open(nell, 'lot_intake', id)).record?.values).toMatchObject({
      viability: 71,
      quantity_g: 6,
      quarantine_from: '2026-03-01',
    });
  });

  test('files are for who sent them and for who sees the record they are in', async () => {
    const ida = await as('ida');
    const tom = await as('tom');
    const send = (context: APIRequestContext, name: string, content: string) =>
      context.post(`/api/files?name=${name}`, { data: Buffer.from(content), headers: { 'content-type': 'application/octet-stream' } });
    const file = (await (await send(ida, 'note.txt', 'only mine')).json()) as { id: number };
    expect((await ida.get(`/api/files/${file.id}`)).status()).toBe(200);
    expect((await tom.get(`/api/files/${file.id}`)).status()).toBe(404);
    const opened = await open(tom);
    const row = await tom.post('/api/forms/lot_intake/wants', {
      data: { version: opened.version, wants: [{ kind: 'row', table: 'files', id: file.id }] },
    });
    expect(await row.text()).not.toContain('note.txt');
    // the same content at once, many times: all kept, none torn
    const sent = await Promise.all(Array.from({ length: 12 }, (_, i) => send(ida, `same ${i}.txt`, 'the same content '.repeat(5000))));
    for (const s of sent) expect(s.status(), await s.text()).toBe(200);
    const ids = await Promise.all(sent.map(async (s) => ((await s.json()) as { id: number }).id));
    for (const id of ids) expect((await (await ida.get(`/api/files/${id}`)).body()).length).toBe('the same content '.length * 5000);
  });
});

test.describe('saving', () => {
  test('a save typed on an older version is judged by the newest, and told so', async () => {
    const maud = await as('maud');
    const ida = await as('ida');
    const before = await open(ida);
    const { draft, revision } = (await (await maud.get('/api/forms/lot_intake/draft')).json()) as {
      draft: { fields: Record<string, { checks?: object[] }> };
      revision: number;
    };
    const check = { when: 'quantity_g > 1000', message: 'More than a kilogram is weighed twice.', severity: 'error' };
    draft.fields.quantity_g = { ...draft.fields.quantity_g, checks: [...(draft.fields.quantity_g?.checks ?? []), check] };
    const put = (await (await maud.put('/api/forms/lot_intake/draft', { data: { draft, revision } })).json()) as { revision: number };
    expect((await maud.post('/api/forms/lot_intake/publish', { data: { revision: put.revision } })).status()).toBe(200);

    const escaped = await save(ida, before, aLot(before, 2000));
    expect(escaped.status).toBe(422);
    expect(escaped.message).toMatch(/published anew while this was typed/);
    expect(escaped.issues.quantity_g).toBe('More than a kilogram is weighed twice.');
    expect(escaped.version).toBe(before.version + 1);
    // what the new checks let through is saved, as of the new version
    const fine = await save(ida, before, aLot(before, 20));
    expect(fine).toMatchObject({ status: 200, version: before.version + 1 });
    const old = await ida.post('/api/forms/lot_intake/wants', { data: { version: before.version, wants: [{ kind: 'table', table: 'sites' }] } }); // prettier-ignore
    expect(old.status()).toBe(200);
    const never = await ida.post('/api/forms/lot_intake/wants', { data: { version: 4711, wants: [{ kind: 'table', table: 'sites' }] } });
    expect(never.status()).toBe(404);
  });

  test('a request is answered once, in parallel too; with anything else in it, or by somebody else, it is refused', async () => {
    const ida = await as('ida');
    const opened = await open(ida);
    const total = async (): Promise<number> =>
      ((await (await ida.get('/api/forms/lot_intake/records?limit=1')).json()) as { total: number }).total;
    const before = await total();
    const request = key();
    const lot = aLot(opened, 7);
    const same = await Promise.all(Array.from({ length: 10 }, () => save(ida, opened, lot, { request })));
    expect(same.map((s) => s.status)).toEqual(Array(10).fill(200));
    expect(new Set(same.map((s) => s.id)).size).toBe(1);
    expect(await total()).toBe(before + 1);

    const other = await save(ida, opened, aLot(opened, 8), { request });
    expect(other).toMatchObject({ status: 409, code: 'requestReused' });
    const tom = await as('tom');
    const foreign = await save(tom, opened, lot, { request });
    expect(foreign).toMatchObject({ status: 409, code: 'requestReused', record: null });
    // nobody learns by a key of somebody else what was saved
    expect(JSON.stringify(foreign)).not.toContain('quantity_g');
    const elsewhere = await body(tom.post('/api/forms/bench_task/records', { data: { version: 1, edits: [], revision: null, request } }));
    expect(elsewhere.status).toBe(409);
    expect(await total()).toBe(before + 1);
  });

  test('who tries a draft as somebody is given what that person entered last', async () => {
    const [maud, ida, tom] = [await as('maud'), await as('ida'), await as('tom')];
    const saved = await save(ida, await open(ida), aLot(await open(ida), 31));
    await save(tom, await open(tom), aLot(await open(tom), 32));
    const session = (await (await ida.get('/api/session')).json()) as { account: { person: number } };
    const last = async (person: number | undefined) => {
      const r = await maud.post('/api/forms/lot_intake/wants', { data: { version: 'draft', wants: [{ kind: 'last', column: null, value: null }], person } }); // prettier-ignore
      return ((await r.json()) as { answer: { row: { id: number } | null } }[])[0]?.answer.row?.id ?? null;
    };
    expect(await last(session.account.person)).toBe(saved.id);
    expect(await last(undefined)).not.toBe(saved.id);
  });

  test('the moment of opening counts where it can be one', async () => {
    const ida = await as('ida');
    const opened = await open(ida);
    const on = async (at: string): Promise<unknown> => {
      const saved = await save(ida, opened, aLot(opened), { opened: { parent: null, url: {}, at } });
      expect(saved.status, JSON.stringify(saved)).toBe(200);
      return saved.values.collected_on;
    };
    const day = (ago: number): string => new Date(Date.parse(`${opened.context.now}Z`) - ago * 86_400_000).toISOString().slice(0, 19);
    // opened before midnight, saved after
    expect(await on(day(1))).toBe(day(1).slice(0, 10));
    expect(await on(day(400))).toBe(opened.context.now.slice(0, 10));
    expect(await on(day(-2))).toBe(opened.context.now.slice(0, 10));
    expect(await on('yesterday')).toBe(opened.context.now.slice(0, 10));
  });
});

test.describe('answers', () => {
  test('are kept by nobody, are JSON for what there is not, and are refused to other sites', async () => {
    const maud = await as('maud');
    for (const path of ['/api/forms', '/api/session', '/api/tables/species/rows', '/api/health', '/api/no/such'])
      expect((await maud.get(path)).headers()['cache-control'], path).toBe('no-store');
    const missing = await maud.get('/api/no/such');
    expect(missing.status()).toBe(404);
    expect(await missing.json()).toMatchObject({ code: 'notFound', message: expect.stringMatching(/no such address/) });
    const wrong = await maud.patch('/api/forms/lot_intake/draft', { data: {} });
    expect(wrong.status()).toBe(405);
    expect(wrong.headers().allow).toBe('GET, PUT');
    expect(await wrong.json()).toMatchObject({ code: 'method' });
    for (const origin of ['null', 'no address', 'http://elsewhere.example', 'http://[', '']) {
      const r = await maud.post('/api/lists', { data: { label: 'Odd' }, headers: { origin } });
      expect(r.status(), origin).toBe(403);
    }
    expect((await maud.post('/api/lists', { data: { label: 'Own' }, headers: { origin: server.url } })).status()).toBe(200);
  });

  test('an address or a host that is none is refused, not failed at', async () => {
    const ask = (method: string, path: string, headers: Record<string, string> = {}): Promise<number> =>
      new Promise((resolve, reject) => {
        const asked = httpRequest(server.url, { method, path, headers: { 'content-type': 'application/json', ...headers } }, (r) => {
          r.resume();
          resolve(r.statusCode ?? 0);
        });
        asked.on('error', reject);
        asked.end(method === 'POST' ? '{"demo":1}' : undefined);
      });
    for (const host of ['[', 'a b', 'x:y:z', '%', '@'])
      for (const origin of ['http://elsewhere.example', 'null'])
        expect(await ask('POST', '/api/session', { host, origin }), host).toBe(403);
    for (const path of [
      '/api/%',
      '/api/%ff',
      '/api/forms/%ff/entry',
      '/api/tables/%00/rows',
      '/api/forms/..%2f..%2fx/entry',
      '//',
      '/api//',
      `/api/${'x'.repeat(8000)}`,
    ])
      for (const method of ['GET', 'POST', 'PURGE'])
        expect(await ask(method, path, { host: '[' }), `${method} ${path.slice(0, 40)}`).toBeLessThan(500);
  });

  test('CSV is safe to open whatever separates its cells', async () => {
    const maud = await as('maud');
    const made: number[] = [];
    for (const name of ['a;=1+1', '\t=2+2', '+3', '@4', 'b,;"=5"', 'c\n=6'])
      made.push(((await (await maud.post('/api/tables/families/rows', { data: { values: { name } } })).json()) as { row: { id: number } }).row.id); // prettier-ignore
    const csv = await (await maud.get('/api/tables/families/export?as=csv')).text();
    // wherever a spreadsheet of any language may cut, no formula begins
    for (const part of csv.split(/[,;\t\r\n]/)) expect(part).not.toMatch(/^[" ]*[=+@]/);
    for (const id of made) await maud.delete(`/api/tables/families/rows/${id}`);
  });
});

test.describe('feeds', () => {
  test('values change neither the host nor the path above it; what cannot be sent is a message', async () => {
    const maud = await as('maud');
    const feeds = ((await (await maud.get('/api/feeds')).json()) as { feeds: Record<string, unknown>[] }).feeds;
    const weather = definitionOf(feeds.find((f) => f.key === 'weather') ?? {}); // prettier-ignore
    const attempt = async (url: string, site: string) => {
      const r = await maud.post('/api/feeds/try', { data: { feed: { ...weather, url }, params: { site, day: '2026-05-04' } } });
      expect(r.status(), await r.text()).toBeLessThan(500);
      return JSON.stringify(await r.json());
    };
    expect(await attempt('https://{site}/x?day={day}', 'evil.example')).toMatch(/host/i);
    expect(await attempt('/standins/{site}?day={day}', '..')).toMatch(/path|stand/i);
    expect(await attempt('/standins/weather?site={site}&day={day}', 'Adder Carr')).toMatch(/"ok":true/);
    const raw = JSON.stringify({ feed: weather, params: { site: 'X', day: '2026-05-04' } }).replace('"X"', '"\\ud800"');
    const odd = await maud.post('/api/feeds/try', { data: Buffer.from(raw), headers: { 'content-type': 'application/json' } });
    expect(odd.status()).toBe(400);
  });
});

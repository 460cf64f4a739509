import type { APIRequestContext } from '@playwright/test';
import { expect, test } from './workspace';
import { pathOf } from '../../core/contract/define.ts';
import { allRoutes } from '../../core/contract/openapi.ts';
import { runJob, signInHttp, upload } from './helpers';

/* The routes, over real HTTP, as somebody would who does not use our screens. */
interface Opened {
  readonly version: number;
  readonly record: { readonly revision: number; readonly values: Record<string, unknown> } | null;
  readonly answered: readonly {
    readonly want: { readonly kind: string; readonly table?: string };
    readonly answer: { readonly rows?: { id: number; name: string; genus?: number; active?: boolean; region?: number }[] };
  }[];
}
const count = async (request: APIRequestContext): Promise<number> =>
  ((await (await request.get('/api/forms/lot_intake/records?limit=1')).json()) as { total: number }).total;
const rowsOf = (opened: Opened, table: string) => opened.answered.find((a) => a.want.table === table)?.answer.rows ?? [];
const set = (field: string, value: unknown) => ({ kind: 'set', field, value });
let unique = 0;
const requestKey = (): string => `http test ${process.pid} ${++unique}`;

test.describe('saving', () => {
  test('forged, stale, missing and wrong input is refused field by field, and nothing is stored', async ({ request }) => {
    await signInHttp(request, 'ida@marrowfen.example');
    const opened = (await (await request.get('/api/forms/lot_intake/entry')).json()) as Opened;
    const species = rowsOf(opened, 'species');
    const robur = species.find((s) => s.name === 'Quercus robur');
    const cerris = species.find((s) => s.name === 'Quercus cerris');
    const site = rowsOf(opened, 'sites').find((s) => s.active);
    const elsewhere = rowsOf(opened, 'sites').find((s) => s.active && s.region !== site?.region);
    const good = [set('species', robur?.id), set('region', site?.region), set('site', site?.id), set('quantity_g', 5)];
    const before = await count(request);
    const send = async (edits: unknown[]): Promise<[number, Record<string, string>]> => {
      const answer = await request.post('/api/forms/lot_intake/records', {
        data: { version: opened.version, edits, revision: null, request: requestKey() },
      });
      return [answer.status(), ((await answer.json()) as { issues?: Record<string, string> }).issues ?? {}];
    };

    const cases: [name: string, edits: unknown[], field: string, message: RegExp][] = [
      ['a row that does not exist', [...good, set('species', 999_999)], 'species', /not offered/],
      ['a retired species', [...good, set('species', cerris?.id)], 'species', /not offered/],
      ['a site of another region', [...good, set('site', elsewhere?.id)], 'site', /not offered/],
      ['a choice that is not in the list', [...good, set('purity', 'golden')], 'purity', /not offered/],
      ['a required field left out', good.slice(0, 3), 'quantity_g', /required/],
      ['text for a number', [...good, set('quantity_g', 'much')], 'quantity_g', /must be a number/],
      ['a date that does not exist', [...good, set('collected_on', '2026-02-30')], 'collected_on', /date/],
      ['a date in the future', [...good, set('collected_on', '2999-01-01')], 'collected_on', /future/],
      ['a typed calculation', [...good, set('seeds', 1)], 'seeds', /calculated/],
      ['a field the form does not have', [...good, set('owner', 1)], 'owner', /no field/],
    ];
    for (const [name, edits, field, message] of cases) {
      const [status, issues] = await send(edits);
      expect(status, name).toBe(422);
      expect(issues[field], name).toMatch(message);
    }
    expect(await count(request)).toBe(before);
    const [status] = await send(good);
    expect(status).toBe(200);
    expect(await count(request)).toBe(before + 1);
  });

  test('the server computes what the screen shows; the same request is saved once', async ({ request }) => {
    await signInHttp(request, 'tom@marrowfen.example');
    const opened = (await (await request.get('/api/forms/lot_intake/entry')).json()) as Opened;
    const site = rowsOf(opened, 'sites').find((s) => s.active);
    const robur = rowsOf(opened, 'species').find((s) => s.name === 'Quercus robur');
    const data = {
      version: opened.version,
      revision: null,
      request: requestKey(),
      edits: [set('species', robur?.id), set('region', site?.region), set('site', site?.id), set('quantity_g', 0.1), set('tsw_g', 0.3)],
    };
    const before = await count(request);
    const first = (await (await request.post('/api/forms/lot_intake/records', { data })).json()) as {
      id: number;
      values: Record<string, unknown>;
    };
    expect(first.values).toMatchObject({ seeds: 333, storage_c: 2, genus: robur?.genus, quantity_g: 0.1 });
    const again = (await (await request.post('/api/forms/lot_intake/records', { data })).json()) as { id: number };
    expect(again.id).toBe(first.id);
    expect(await count(request)).toBe(before + 1);

    const old = await request.put(`/api/forms/lot_intake/records/${first.id}`, {
      data: { ...data, request: requestKey(), revision: 99, edits: [set('quantity_g', 9)] },
    });
    expect(old.status()).toBe(409);
    const stands = (await (await request.get(`/api/forms/lot_intake/records/${first.id}`)).json()) as Opened;
    expect(stands.record?.values.quantity_g).toBe(0.1);
  });
});

test.describe('who may', () => {
  test('without signing in nothing is told', async ({ playwright, baseURL }) => {
    const nobody = await playwright.request.newContext({ baseURL });
    for (const path of [
      '/api/tables',
      '/api/forms',
      '/api/forms/lot_intake/entry',
      '/api/forms/lot_intake/records',
      '/api/forms/lot_intake/draft',
      '/api/tables/people/rows',
    ]) {
      expect((await nobody.get(path)).status(), path).toBe(401);
    }
    await nobody.dispose();
  });

  test('a clerk cannot build', async ({ request }) => {
    await signInHttp(request, 'ida@marrowfen.example');
    const draft = { data: { draft: {}, revision: 1 } };
    expect((await request.get('/api/tables')).status()).toBe(403);
    expect((await request.get('/api/forms/lot_intake/draft')).status()).toBe(403);
    expect((await request.put('/api/forms/lot_intake/draft', draft)).status()).toBe(403);
    expect((await request.post('/api/forms/lot_intake/publish', { data: { revision: 1 } })).status()).toBe(403);
    expect((await request.post('/api/tables/species/rows', { data: { values: {} } })).status()).toBe(403);
    expect((await request.delete('/api/tables/species/rows/1')).status()).toBe(403);
    expect((await request.post('/api/imports', { data: { plan: {}, text: '' } })).status()).toBe(403);
    expect(
      (
        await request.post('/api/forms/lot_intake/wants', { data: { version: 'draft', wants: [{ kind: 'table', table: 'species' }] } })
      ).status(),
    ).toBe(403);
  });

  test('wrong passwords are refused, then slowed down; another site cannot act', async ({ playwright, baseURL }) => {
    const nobody = await playwright.request.newContext({ baseURL });
    const statuses: number[] = [];
    for (let i = 0; i < 10; i++)
      statuses.push((await nobody.post('/api/session', { data: { email: 'nobody@marrowfen.example', password: `guess ${i}` } })).status());
    expect(statuses.slice(0, 8).every((s) => s === 401)).toBe(true);
    expect(statuses.at(-1)).toBe(429);
    const elsewhere = await nobody.post('/api/session', { data: { demo: 1 }, headers: { origin: 'http://elsewhere.example' } });
    expect(elsewhere.status()).toBe(403);
    await nobody.dispose();
  });
});

test.describe('tables and imports', () => {
  test('bad bodies and files are refused with a sentence', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const guess = async (text: string, name = 'x.csv'): Promise<string> =>
      (await runJob(request, '/api/imports/guess', { upload: await upload(request, name, text) })).error?.message ?? 'taken';
    expect(await guess('[1, 2]', 'x.json')).toMatch(/Item 1 of the JSON is no object/);
    expect(await guess('not a workbook', 'x.xlsx')).toMatch(/no archive that can be read/);
    expect(await guess('')).toMatch(/empty/);
    expect(await guess('name,size\n')).toMatch(/no rows/);
    expect(await guess('name,size\nfen,1\nbog')).toBe('Line 3 has 1 value, but the header names 2 columns.');
    expect(await guess('name\n"fen')).toMatch(/line \d.*quotation mark/);
    expect(await guess('name\nf\uFFFDn')).toMatch(/UTF-8/);
    expect(
      (await request.post('/api/tables/species/rows', { data: 'no json', headers: { 'content-type': 'application/json' } })).status(),
    ).toBe(400);
    expect((await request.get('/api/tables/nosuch/rows')).status()).toBe(404);
    const row = await request.post('/api/tables/species/rows', {
      data: { values: { name: 'x', genus: 99999, storage_c: 'cold', nosuch: 1 } },
    });
    expect(row.status()).toBe(422);
    expect(Object.keys(((await row.json()) as { issues: object }).issues).sort()).toEqual(['genus', 'nosuch', 'storage_c']);
  });

  test('an import that does not fit writes nothing at all', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const plan = { key: 'trays', label: 'Trays', shown: 'name', repairs: {}, columns: [{ key: 'name', label: 'Name', type: 'text', target: null }, { key: 'size', label: 'Size', type: 'number', target: null }] }; // prettier-ignore
    const bring = async (text: string) => runJob(request, '/api/imports', { plan, upload: await upload(request, 'trays.csv', text) });
    expect((await bring('name,size\nA,1\nB,two\n')).error?.message).toMatch(/Nothing was imported/);
    expect((await request.get('/api/tables/trays/rows')).status()).toBe(404);
    expect((await bring('name,size\nA,1\nB,2\n')).state).toBe('done');
    expect(((await (await request.get('/api/tables/trays/rows')).json()) as { total: number }).total).toBe(2);
    expect((await bring('name,size\nA,1\n')).error?.message).toMatch(/There is a table “trays” already/);
    expect((await request.delete('/api/tables/trays')).status()).toBe(200);
  });

  test('two designers in one draft: the second is told, nothing is overwritten', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const { draft, revision } = (await (await request.get('/api/forms/lot_intake/draft')).json()) as { draft: object; revision: number };
    expect((await request.put('/api/forms/lot_intake/draft', { data: { draft, revision } })).status()).toBe(200);
    expect((await request.put('/api/forms/lot_intake/draft', { data: { draft, revision } })).status()).toBe(409);
    expect(
      (await request.put('/api/forms/lot_intake/draft', { data: { draft: { ...draft, fields: {} }, revision: revision + 1 } })).status(),
    ).toBe(400);
  });

  test('two rows that mean one are made one: links lead to what is kept', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const find = async (table: string, search: string) =>
      (
        (await (await request.get(`/api/tables/${table}/rows?search=${encodeURIComponent(search)}`)).json()) as {
          rows: { row: { id: number; name: string } & Record<string, unknown>; revision: number }[];
        }
      ).rows;
    const [kept] = await find('regions', 'Tarn Fells');
    const twin = (await (
      await request.post('/api/tables/regions/rows', { data: { values: { name: 'tarn  fells', code: 'X' } } })
    ).json()) as { row: { id: number } };
    const [site] = await find('sites', 'Ash Ghyll');
    await request.patch(`/api/tables/sites/rows/${site?.row.id}`, { data: { revision: site?.revision, values: { region: twin.row.id } } });
    const merged = await request.post('/api/tables/regions/merge', { data: { keep: kept?.row.id, drop: [twin.row.id] } });
    expect(await merged.json()).toMatchObject({ moved: 1, repair: expect.any(Number) });
    expect((await find('sites', 'Ash Ghyll'))[0]?.row.region).toBe(kept?.row.id);
    expect((await find('regions', 'tarn  fells')).length).toBe(0);
    expect((await request.post('/api/tables/regions/merge', { data: { keep: 1, drop: [1] } })).status()).toBe(404);
    // only spellings of the same name are written over
    const other = await request.post('/api/tables/sites/respell', {
      data: { column: 'name', from: ['Ash Ghyll', 'ash ghyll'], to: 'Black Tarn' },
    });
    expect(await other.json()).toEqual({ changed: 0, rows: [], repair: null });
  });

  test('a table exported as CSV comes in again with nothing lost', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    await request.post('/api/tables/sites/rows', {
      data: { values: { name: '=HYPERLINK("x")', access_note: 'quote " comma , line\nbreak', grid_reference: "'apostrophe" } },
    });
    const csv = await (await request.get('/api/tables/sites/export?as=csv')).text();
    expect(csv).toContain("'=HYPERLINK");
    const sent = await upload(request, 'sites again.csv', csv);
    const guess = (await runJob(request, '/api/imports/guess', { upload: sent })).result as {
      key: string;
      label: string;
      shown: string;
      columns: { key: string; label: string; type: string; target: string | null }[];
    };
    expect(guess.columns.find((c) => c.key === 'region')).toMatchObject({ type: 'link', target: 'regions' });
    const plan = { key: guess.key, label: guess.label, shown: guess.shown, repairs: {}, columns: guess.columns.map(({ key, label, type, target }) => ({ key, label, type, target })) }; // prettier-ignore
    expect((await runJob(request, '/api/imports', { plan, upload: sent })).state).toBe('done');
    expect(await (await request.get(`/api/tables/${guess.key}/export?as=csv`)).text()).toBe(csv);
    const json = (await (await request.get('/api/tables/sites/export?as=json')).json()) as { name: string; access_note: string }[];
    expect(json.find((r) => r.name === '=HYPERLINK("x")')?.access_note).toBe('quote " comma , line\nbreak');
    expect((await request.delete(`/api/tables/${guess.key}`)).status()).toBe(200);
    const odd = json.find((r) => r.name.startsWith('=')) as unknown as { id: number };
    expect((await request.delete(`/api/tables/sites/rows/${odd.id}`)).status()).toBe(200);
  });

  test('option lists: broken ones and older revisions are refused', async ({ request }) => {
    await signInHttp(request, 'maud@marrowfen.example');
    const item = (value: string, depth = 0) => ({ value, label: value, depth });
    const put = (items: object[], revision = 1) =>
      request.put('/api/lists/purposes', { data: { list: { key: 'purposes', label: 'Purposes', items }, revision } });
    expect((await put([item('a'), item('A')])).status()).toBe(422);
    expect((await put([item('a'), item('b', 3)])).status()).toBe(422);
    expect((await put([item('')])).status()).toBe(400);
    expect((await put([item('a')], 99)).status()).toBe(409);
    expect((await request.delete('/api/lists/purposes')).status()).toBe(409);
    expect((await request.delete('/api/lists/nosuch')).status()).toBe(404);
  });
});

test.describe('the contract', () => {
  const asked = allRoutes().map(({ name, route }) => ({
    name,
    may: route.may,
    ask: (request: APIRequestContext) =>
      request.fetch(`/api/${pathOf(route, { key: 'species', column: 'name', id: 1, version: 1 })}`, { method: route.method, data: route.body ? {} : undefined }),
  })); // prettier-ignore

  test('who may ask a route is kept: nobody who is not signed in, no clerk where forms are built', async ({ request }) => {
    for (const { name, may, ask } of asked) {
      if (may !== 'anybody') expect((await ask(request)).status(), name).toBe(401);
    }
    await signInHttp(request, 'ida@marrowfen.example');
    for (const { name, may, ask } of asked) {
      if (may !== 'anybody' && may !== 'signedIn') expect((await ask(request)).status(), name).toBe(403);
    }
    await signInHttp(request, 'maud@marrowfen.example');
    for (const { name, may, ask } of asked) {
      if (Array.isArray(may)) expect((await ask(request)).status(), name).toBe(403);
    }
  });

  test('it is described for programs, to anybody', async ({ request }) => {
    const description = (await (await request.get('/api/openapi.json')).json()) as { openapi: string; paths: Record<string, object> };
    expect(description.openapi).toBe('3.1.0');
    expect(Object.keys(description.paths['/api/forms/{key}/draft'] ?? {})).toEqual(['get', 'put']);
    const schema = (await (await request.get('/api/schemas/form.json')).json()) as { required: string[] };
    expect(schema.required).toEqual(expect.arrayContaining(['key', 'label', 'table', 'pages', 'fields']));
  });
});

test('answers and pages travel compressed to whoever takes that; what is small, and what others ask for, as it is', async ({ request }) => {
  await signInHttp(request, 'maud@marrowfen.example');
  const gzip = { headers: { 'accept-encoding': 'gzip' } };
  const plain = { headers: { 'accept-encoding': 'identity' } };
  for (const path of ['/api/tables', '/entry']) {
    const [small, whole] = [await request.get(path, gzip), await request.get(path, plain)];
    expect(small.headers()['content-encoding'], path).toBe('gzip');
    expect(small.headers().vary, path).toContain('accept-encoding');
    expect(small.headers()['content-type'], path).toBe(whole.headers()['content-type']);
    expect(whole.headers()['content-encoding'], path).toBeUndefined();
    // undone, it says the same
    if (path.startsWith('/api')) expect(await small.json()).toEqual(await whole.json());
  }
  expect((await request.get('/api/session', gzip)).headers()['content-encoding']).toBeUndefined();
});

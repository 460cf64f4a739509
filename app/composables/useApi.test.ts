import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { contract } from '../../core/contract/index.ts';
import { standInServer } from '../testing/server';
import { ApiError, api, routeAddress, sendBody } from './useApi';

beforeEach(() => setActivePinia(createPinia()));
afterEach(() => void vi.unstubAllGlobals());
const refusal = (work: Promise<unknown>): Promise<unknown> => work.then(() => null, (e: unknown) => e); // prettier-ignore

test('a route is asked by its path, with what is sent as JSON or what is asked in the address', async () => {
  const server = standInServer(() => ({ body: { version: 4 } }));
  expect(await api.forms.publish({ key: 'lot_intake' }, { revision: 7 })).toEqual({ version: 4 });
  await api.tables.rows({ key: 'species' }, { search: 'a & b', offset: 100, sort: undefined });
  await api.tables.remove({ key: 'tools 2' });
  await api.backfills.apply({ key: 'lot_intake', id: 3 });
  await api.session.read();
  expect(server.sent).toEqual([
    { method: 'POST', path: 'forms/lot_intake/publish', body: { revision: 7 } },
    { method: 'GET', path: 'tables/species/rows?search=a+%26+b&offset=100', body: null },
    { method: 'DELETE', path: 'tables/tools%202', body: null },
    // a route that takes JSON is sent some, though nothing has to be said
    { method: 'POST', path: 'forms/lot_intake/backfills/3/apply', body: {} },
    { method: 'GET', path: 'session', body: null },
  ]);
});

test('a refusal comes with its code, its sentence and its details', async () => {
  standInServer(() => ({ status: 409, body: { code: 'changedMeanwhile', message: 'Somebody changed it.', by: 'Maud' } }));
  const refused = await refusal(api.forms.publish({ key: 'x' }, { revision: 1 }));
  expect(refused).toBeInstanceOf(ApiError);
  expect(refused).toMatchObject({ status: 409, code: 'changedMeanwhile', message: 'Somebody changed it.', details: { by: 'Maud' } });
});

test('an answer that is not JSON, as from a proxy that is in trouble, is a refusal with a sentence', async () => {
  vi.stubGlobal('fetch', async () => new Response('<h1>Bad gateway</h1>', { status: 502 }));
  expect(await refusal(api.tables.list())).toMatchObject({ status: 502, code: 'failed', message: 'The server answered 502.' });
});

test('a server that cannot be reached is told so, and that nothing is lost', async () => {
  vi.stubGlobal('fetch', () => Promise.reject(new TypeError('fetch failed')));
  expect(await refusal(api.forms.saveDraft({ key: 'x' }, { draft: {} as never, revision: 1 }))).toMatchObject({ status: 0, code: 'offline', message: expect.stringContaining('Nothing you typed is lost') }); // prettier-ignore
  expect(await refusal(sendBody(contract.files.store, new File(['x'], 'x.txt')))).toMatchObject({ status: 0, message: expect.stringContaining('the file was not sent') }); // prettier-ignore
});

test('whoever is not signed in is led to sign in and back again; wrong words at signing in lead nowhere', async () => {
  standInServer(() => ({ status: 401, body: { code: 'signIn', message: 'Sign in first.' } }));
  vi.stubGlobal('useRoute', () => ({ fullPath: '/entry/lot_intake/new?parent=3' }));
  const led = vi.fn();
  vi.stubGlobal('navigateTo', led);
  await refusal(api.session.begin({ email: 'a', password: 'b' }));
  expect(led).not.toHaveBeenCalled();
  expect(await refusal(api.forms.list())).toMatchObject({ status: 401 });
  expect(led).toHaveBeenCalledExactlyOnceWith('/sign-in?to=%2Fentry%2Flot_intake%2Fnew%3Fparent%3D3');
});

test('a session that ends in the midst: signed in again over the screen, what was asked is asked once more', async () => {
  let signedIn = false;
  const account = { id: 5, email: 'ida@marrowfen.example', name: 'Ida', roles: ['clerk' as const], team: null, person: 1, demo: true };
  const server = standInServer((sent) => {
    if (sent.path === 'session') return { body: { account: ((signedIn = true), account) } };
    return signedIn ? { body: [] } : { status: 401, body: { code: 'signIn', message: 'Sign in first.' } };
  });
  const session = useSession();
  session.account = account;
  const both = Promise.all([api.forms.list(), api.tables.list()]);
  await vi.waitFor(() => expect(session.ended).toBe(true));
  await session.resume({ demo: 5 });
  expect(await both).toEqual([[], []]);
  expect([session.ended, server.sent.map((s) => s.path).filter((p) => p !== 'session')]).toEqual([false, ['forms', 'tables', 'forms', 'tables']]); // prettier-ignore
});

test('a name that would lead elsewhere is refused before anything is asked', async () => {
  const server = standInServer(() => ({ body: {} }));
  for (const key of ['', '.', '..']) expect(await refusal(api.tables.remove({ key }))).toBeInstanceOf(RangeError);
  expect(server.sent).toEqual([]);
});

test('the address of a file is that of its route', () => {
  expect(routeAddress(contract.tables.exportOne, { key: 'lots' }, { as: 'xlsx' })).toBe('/api/tables/lots/export?as=xlsx');
  expect(routeAddress(contract.tables.exportAll)).toBe('/api/tables/export');
});

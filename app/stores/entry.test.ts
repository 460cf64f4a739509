import 'fake-indexeddb/auto';
import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { Want } from '../../core/engine/wants.ts';
import { LOT_FIELDS, SEEDBANK, answer, lotForm } from '../../core/testing/seedbank.ts';
import { type Sent, later, standInServer } from '../testing/server';
import { keptEdits } from '../composables/keptEdits';
import { useEntry } from './entry';
import { useSession } from './session';

const CONTEXT = { today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1, parent: null };
const form = (fields: Record<string, object> = LOT_FIELDS) => lotForm(fields);
const opened = (more: object = {}) => ({
  body: {
    form: form(),
    version: 3,
    tables: SEEDBANK,
    lists: [],
    feeds: [],
    context: CONTEXT,
    mode: 'new',
    record: null,
    answered: [],
    renamed: {},
    ...more,
  },
});
type Answer = ReturnType<Parameters<typeof standInServer>[0]>;
function serve(save: (sent: Sent) => Answer = () => ({ body: { id: 7, version: 3, values: {} } }), more: object = {}) {
  return standInServer((sent) => {
    if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
    return sent.method === 'GET' ? opened(more) : save(sent);
  });
}
const kept = new Map<string, string>();
const saves = (server: ReturnType<typeof serve>) => server.sent.filter((s) => s.path.endsWith('/records') || s.method === 'PUT');
const keptHere = (record: number | null = null) => keptEdits(useSession().account!.id, 'lot', record).all();
const NEW = { form: 'lot', record: null, address: {} };
async function begun(what: Parameters<ReturnType<typeof useEntry>['open']>[0] = NEW) {
  const entry = useEntry();
  await entry.open(what);
  await entry.host.settled();
  return entry;
}

let accounts = 100;
beforeEach(() => {
  kept.clear();
  vi.stubGlobal('navigator', {});
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => void kept.set(k, v),
    removeItem: (k: string) => void kept.delete(k),
  });
  setActivePinia(createPinia());
  // nobody is offered what another test has left
  useSession().account = { id: ++accounts, email: '', name: 'Ida', roles: ['clerk'], team: null, person: 1, demo: true };
});
afterEach(() => void vi.unstubAllGlobals());

test('a new entry is saved with what was typed, on the version it was opened on', async () => {
  const server = serve();
  const entry = await begun();
  entry.host.set('species', 211);
  expect(await entry.save(false)).toEqual({ kind: 'saved', id: 7, differs: [], anew: null, lost: [] });
  expect(saves(server)[0]?.body).toMatchObject({ version: 3, revision: null, edits: [{ kind: 'set', field: 'species', value: 211 }], opened: { at: CONTEXT.now } }); // prettier-ignore
});

test('what is done in one go is kept once, behind all of it; what was saved is kept no more', async () => {
  serve();
  const entry = await begun();
  const set = vi.spyOn(localStorage, 'setItem');
  for (let g = 1; g <= 40; g++) entry.host.set('quantity_g', g);
  expect(set).not.toHaveBeenCalled();
  await Promise.resolve();
  expect(set).toHaveBeenCalledTimes(1);
  expect(JSON.parse(set.mock.calls[0]![1]).edits).toHaveLength(40);
  entry.host.set('species', 211);
  await entry.save(false);
  await new Promise((resolve) => setTimeout(resolve, 20));
  expect(await keptHere()).toEqual([]);
  expect(kept.size).toBe(0);
});

test('what is in the way is said at its field, and nothing is sent', async () => {
  const server = serve();
  const entry = await begun();
  expect(await entry.save(false)).toEqual({ kind: 'refused', at: 'species' });
  expect(entry.host.issues.value.map((i) => i.field)).toEqual(['species']);
  expect(saves(server)).toEqual([]);
});

test('what the server refuses stands at the fields; a form published anew meanwhile is told', async () => {
  serve(() => ({ status: 422, body: { code: 'issues', message: 'Not saved.', issues: { quantity_g: 'Too much.' }, version: 4 } }));
  const entry = await begun();
  entry.host.set('species', 211);
  expect(await entry.save(false)).toEqual({ kind: 'refused', at: 'quantity_g' });
  expect(entry.host.issues.value).toMatchObject([{ field: 'quantity_g', message: 'Too much.' }]);
  expect(entry.notices).toEqual(['The form was published anew while this was typed; it was judged by version 4.']);
  expect(entry.host.view('species').value).toBe(211);
});

test('a save whose answer is lost is sent again under the same key', async () => {
  let lost = true;
  const server = serve(() => {
    if (!lost) return { body: { id: 7, version: 3, values: {} } };
    throw new TypeError('the connection was lost');
  });
  const entry = await begun();
  entry.host.set('species', 211);
  expect(await entry.save(false)).toMatchObject({ kind: 'waiting' });
  lost = false;
  expect(await entry.save(false)).toMatchObject({ kind: 'saved', id: 7 });
  const keys = saves(server).map((s) => (s.body as { request: string }).request);
  expect(keys).toHaveLength(2);
  expect(keys[0]).toBe(keys[1]);
});

test('two presses save once', async () => {
  const slow = later<{ body: object }>();
  const server = serve(() => slow.answer);
  const entry = await begun();
  entry.host.set('species', 211);
  const first = entry.save(false);
  const second = entry.save(false);
  slow.give({ body: { id: 7, version: 3, values: {} } });
  expect([(await first).kind, (await second).kind]).toEqual(['saved', 'refused']);
  expect(saves(server)).toHaveLength(1);
});

test('the next entry begins with what is carried over, and with a key of its own', async () => {
  const server = serve(() => ({ body: { id: 7, version: 3, values: { quantity_g: 12 } } }), { form: form({ ...LOT_FIELDS, quantity_g: { ...LOT_FIELDS.quantity_g, carry: true } }) }); // prettier-ignore
  const entry = await begun();
  entry.host.set('species', 211);
  entry.host.set('quantity_g', 12);
  expect(await entry.save(true)).toMatchObject({ kind: 'saved' });
  expect(entry.host.view('quantity_g').value).toBe(12);
  expect(entry.host.view('quantity_g').state.origin.kind).toBe('carried');
  expect(entry.host.view('species').value).toBe(null);
  entry.host.set('species', 212);
  await entry.save(false);
  const [a, b] = saves(server).map((s) => (s.body as { request: string }).request);
  expect(a).not.toBe(b);
});

test('changed by somebody else: read again, what was typed stands on top of theirs', async () => {
  const record = { id: 7, revision: 2, values: { species: 211, quantity_g: 4, tsw_g: 1 }, origins: {} };
  let theirs = record;
  const server = standInServer((sent) => {
    if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
    return sent.method === 'GET' ? opened({ record: theirs }) : { status: 409, body: { code: 'changedMeanwhile', message: 'Changed.' } };
  });
  const entry = await begun({ form: 'lot', record: 7, address: {} });
  entry.host.set('quantity_g', 12);
  expect(await entry.save(false)).toEqual({ kind: 'conflict' });
  theirs = { ...record, revision: 3, values: { ...record.values, tsw_g: 2 } };
  expect(await entry.readAgain()).toEqual(['Weight of 1000 seeds']);
  await entry.host.settled();
  expect(entry.clashes).toEqual([]);
  expect([entry.host.view('quantity_g').value, entry.host.view('tsw_g').value]).toEqual([12, 2]);
  expect(saves(server)[0]).toMatchObject({ method: 'PUT', path: 'forms/lot/records/7' });
});

test('changed by both in one field: both values are told, and the one that is chosen stands', async () => {
  const record = { id: 7, revision: 2, values: { species: 211, quantity_g: 4, tsw_g: 1 }, origins: {} };
  let theirs = record;
  standInServer((sent) => {
    if (sent.path.endsWith('/wants')) return { body: answer((sent.body as { wants: Want[] }).wants) };
    return sent.method === 'GET' ? opened({ record: theirs }) : { status: 409, body: { code: 'changedMeanwhile', message: 'Changed.' } };
  });
  const entry = await begun({ form: 'lot', record: 7, address: {} });
  entry.host.set('quantity_g', 12);
  entry.host.set('tsw_g', 9);
  await entry.save(false);
  theirs = { ...record, revision: 3, values: { species: 211, quantity_g: 5, tsw_g: 2 } };
  await entry.readAgain();
  expect(entry.clashes).toEqual([{ address: 'quantity_g', theirs: 5, mine: 12 }, { address: 'tsw_g', theirs: 2, mine: 9 }]); // prettier-ignore
  expect([entry.host.view('quantity_g').value, entry.host.view('tsw_g').value], 'nothing is decided unasked').toEqual([5, 2]);
  entry.resolve(new Set(['tsw_g']));
  expect([entry.host.view('quantity_g').value, entry.host.view('tsw_g').value, entry.clashes]).toEqual([5, 9, []]);
  // decided once, it is not asked again while nobody changes the field anew
  await entry.save(false);
  theirs = { ...theirs, revision: 4, values: { ...theirs.values, quantity_g: 6 } };
  await entry.readAgain();
  expect([entry.clashes, entry.host.view('quantity_g').value, entry.host.view('tsw_g').value]).toEqual([[], 6, 9]);
  // what is kept is offered on the record as it has become, and asks too
  await vi.waitFor(async () => expect(await keptHere(7)).toHaveLength(1));
  theirs = { ...theirs, revision: 5, values: { ...theirs.values, tsw_g: 3 } };
  await begun({ form: 'lot', record: 7, address: {} });
  expect(entry.kept?.revision).toBe(4);
  entry.takeUp();
  expect(entry.clashes).toEqual([{ address: 'tsw_g', theirs: 3, mine: 9 }]);
});

test('what was typed and left is offered again; taken up, it stands there, and is saved under the key it had', async () => {
  const server = serve();
  const entry = await begun();
  entry.host.set('species', 211);
  await vi.waitFor(async () => expect(await keptHere()).toHaveLength(1));
  await begun();
  expect(entry.kept?.edits).toHaveLength(1);
  expect(entry.host.view('species').value).toBe(null);
  const { request } = entry.kept!;
  entry.takeUp();
  expect(entry.host.view('species').value).toBe(211);
  await entry.save(false);
  expect((saves(server)[0]?.body as { request: string }).request).toBe(request);
  await begun();
  expect(entry.kept).toBeNull();
});

test('opened one after the other, an answer that comes late is not the entry’s', async () => {
  const slow = later<{ body: object }>();
  standInServer((sent) =>
    sent.path.startsWith('forms/slow/entry') ? slow.answer : sent.path.endsWith('/wants') ? { body: [] } : opened({ version: 9 }),
  );
  const entry = useEntry();
  const first = entry.open({ ...NEW, form: 'slow' });
  await entry.open({ ...NEW, form: 'quick' });
  slow.give(opened({ version: 1 }));
  await first;
  expect([entry.form, entry.opened?.version]).toEqual(['quick', 9]);
});

test('one that cannot be opened says why', async () => {
  standInServer(() => ({ status: 404, body: { code: 'notFound', message: 'There is no such record.' } }));
  const entry = await begun({ form: 'lot', record: 999, address: {} });
  expect([entry.failed, entry.opened]).toEqual(['There is no such record.', null]);
});

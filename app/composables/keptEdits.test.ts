import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { keptEdits, leftUnsaved } from './keptEdits';

const old = new Map<string, string>();
/** The entries that windows have open. */
let open: string[] = [];
beforeEach(() => {
  old.clear();
  open = [];
  vi.stubGlobal('localStorage', localStore());
  vi.stubGlobal('navigator', { locks: { query: () => Promise.resolve({ held: open.map((name) => ({ name })) }) } });
});
let form = '';
let made = 0;
beforeEach(() => (form = `form_${++made}`)); // prettier-ignore
const typed = (value: string, more: object = {}) => ({
  revision: null,
  edits: [{ kind: 'set' as const, field: 'code', value }],
  request: `${form} ${value}`,
  ...more,
});
const values = async (account = 1, record: number | null = null) =>
  (await keptEdits(account, form, record).all()).map((k) => (k.edits[0] as { value: string }).value);

/** A store whose keys are its own, as a browser has it. */
function localStore() {
  const store = {
    getItem: (k: string) => old.get(k) ?? null,
    setItem: (k: string, v: string) => void old.set(k, v),
    removeItem: (k: string) => void old.delete(k),
  };
  return new Proxy(store, { ownKeys: () => [...old.keys()], getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }) });
}
const clock = () => {
  let now = 0;
  return () => ++now;
};

describe('kept edits', () => {
  test('belong to an account, a form and a record', async () => {
    await keptEdits(1, form, null).write(typed('a'));
    expect(await values()).toEqual(['a']);
    expect(await values(2)).toEqual([]);
    expect(await values(1, 7)).toEqual([]);
    expect(await keptEdits(1, `${form}_other`, null).all()).toEqual([]);
  });

  test('each entry is kept by itself, the newest first; one that a window has open is offered to no other', async () => {
    const kept = keptEdits(1, form, null, clock());
    await kept.write(typed('first'));
    await kept.write(typed('second'));
    await kept.write(typed('first', { edits: [{ kind: 'set', field: 'code', value: 'first, more' }] }));
    expect(await values()).toEqual(['first, more', 'second']);
    open = [`brisk-entry ${form} first`];
    expect(await values()).toEqual(['second']);
    await kept.drop(`${form} second`);
    open = [];
    expect(await values()).toEqual(['first, more']);
  });

  test('of many states in one go the last is kept, and those in between are not written', async () => {
    const put = vi.spyOn(IDBObjectStore.prototype, 'put');
    const kept = keptEdits(1, form, null, clock());
    const state = (n: number) => typed('one', { edits: [{ kind: 'set', field: 'code', value: `state ${n}` }] });
    await Promise.all(Array.from({ length: 50 }, (_, n) => kept.write(state(n))));
    expect(await values()).toEqual(['state 49']);
    expect(put.mock.calls.length).toBeLessThanOrEqual(2);
    expect(old.size).toBe(0);
    // one after the other too, and in whatever moment the one before ends
    for (let n = 50; n < 60; n++) {
      const before = kept.write(state(n));
      for (let turns = n; turns > 50; turns--) await Promise.resolve();
      await Promise.all([before, kept.write(state(n + 100))]);
      expect(await values()).toEqual([`state ${n + 100}`]);
    }
    put.mockRestore();
  });

  test('what is dropped while it is being written stays dropped', async () => {
    const kept = keptEdits(1, form, null);
    const writes = [kept.write(typed('a')), kept.write(typed('a', { edits: [{ kind: 'set', field: 'code', value: 'more' }] }))];
    await kept.drop(`${form} a`);
    await Promise.all(writes);
    expect(await values()).toEqual([]);
    expect(old.size).toBe(0);
  });

  test('where there is no room for what is on its way, it is on the disk all the same', async () => {
    vi.stubGlobal('localStorage', { ...localStore(), setItem: () => { throw new Error('full'); }, getItem: () => null, removeItem: () => undefined }); // prettier-ignore
    await keptEdits(1, form, null).write(typed('large'));
    expect(await values()).toEqual(['large']);
  });

  test('so many and no more: the oldest go', async () => {
    const kept = keptEdits(1, form, null, clock());
    for (let i = 0; i < 12; i++) await kept.write(typed(String(i)));
    expect(await values()).toEqual(['11', '10', '9', '8', '7']);
  });

  test('what versions before kept elsewhere is found, all of it, once; what cannot be read there is nothing', async () => {
    const key = `brisk-kept 1 ${form} new`;
    old.set(key, JSON.stringify({ ...typed('new'), earlier: { ...typed('older'), earlier: null } }));
    expect(await values()).toEqual(['new', 'older']);
    expect(old.size).toBe(0);
    for (const text of ['no json', '7', '[]', '{"edits":1}', 'null']) {
      old.set(key, text);
      expect(await values(), text).toEqual(['new', 'older']);
    }
  });

  test('what was on its way to the disk when the page was left is there', async () => {
    await keptEdits(1, form, null).write(typed('a'));
    expect(old.size, 'once it is on the disk, it is there alone').toBe(0);
    old.set(`brisk-keeping ${form} b`, JSON.stringify({ ...typed('b'), of: `1 ${form} new`, at: 1 }));
    expect((await values()).sort()).toEqual(['a', 'b']);
    expect(old.size).toBe(0);
  });

  test('what was left as on its way by a browser that was killed takes no newer one’s place', async () => {
    const times = [10, 20, 30];
    const kept = keptEdits(1, form, null, () => times.shift()!);
    await kept.write(typed('first'));
    const { request } = (await kept.all())[0]!;
    const state = (value: string, at: number) =>
      JSON.stringify({ ...typed(value, { request, edits: [{ kind: 'set', field: 'code', value }] }), of: `1 ${form} new`, at });
    // the store of small things came to the disk later than the other
    old.set(`brisk-keeping ${request}`, state('older', 9));
    expect(await values()).toEqual(['first']);
    expect(old.size).toBe(0);
    old.set(`brisk-keeping ${request}`, state('newer', 11));
    expect(await values()).toEqual(['newer']);
  });

  test('what was on its way is told at home too; what a window that is open has on its way stays with it', async () => {
    const onItsWay = (name: string) =>
      old.set(`brisk-keeping ${form} ${name}`, JSON.stringify({ ...typed(name), of: `77 ${form} 4`, at: 1 }));
    onItsWay('b');
    onItsWay('c');
    open = [`brisk-entry ${form} c`];
    expect(await leftUnsaved(77)).toEqual([{ form, record: 4, at: 1, entries: 1 }]);
    expect([...old.keys()]).toEqual([`brisk-keeping ${form} c`]);
    open = [];
    expect(await leftUnsaved(77)).toHaveLength(2);
    expect(old.size).toBe(0);
  });

  test('where nothing can be kept, nothing is offered and nothing breaks', async () => {
    vi.stubGlobal('navigator', { locks: { query: () => Promise.reject(new Error('no')) } });
    await keptEdits(1, form, null).write(typed('a', { edits: [{ kind: 'set', field: 'code', value: 'x' }] }));
    expect(await values()).toEqual(['x']);
  });
});

import { beforeEach, describe, expect, test, vi } from 'vitest';
import { type KeptEdits, keptEdits } from './keptEdits';

const store = new Map<string, string>();
beforeEach(() => {
  store.clear();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => store.get(key) ?? null,
    setItem: (key: string, value: string) => void store.set(key, value),
    removeItem: (key: string) => void store.delete(key),
  });
});
const typed = (value: string, earlier: KeptEdits | null = null): KeptEdits => ({
  revision: null,
  edits: [{ kind: 'set', field: 'code', value }],
  request: `request ${value}`,
  earlier,
});

describe('kept edits', () => {
  test('belong to an account, a form and a record', () => {
    keptEdits(1, 'lot_intake', null).write(typed('a'));
    expect(keptEdits(1, 'lot_intake', null).read()).toEqual(typed('a'));
    expect(keptEdits(2, 'lot_intake', null).read()).toBeNull();
    expect(keptEdits(1, 'bench_task', null).read()).toBeNull();
    expect(keptEdits(1, 'lot_intake', 7).read()).toBeNull();
  });

  test('what was kept before there were accounts in the name is offered to nobody', () => {
    store.set('brisk-entry lot_intake new', JSON.stringify(typed('old')));
    expect(keptEdits(1, 'lot_intake', null).read()).toBeNull();
    expect(store.size).toBe(0);
  });

  test('what is offered and not answered yet is not written over by what is typed beside it', () => {
    const kept = keptEdits(1, 'lot_intake', null);
    kept.write(typed('first'));
    kept.write(typed('second', kept.read()));
    expect(kept.read()?.edits).toEqual(typed('second').edits);
    expect(kept.read()?.earlier?.edits).toEqual(typed('first').edits);
    // the second is saved: the first is still there
    kept.drop(kept.read()?.earlier ?? null);
    expect(kept.read()).toEqual(typed('first'));
    kept.drop();
    expect(kept.read()).toBeNull();
  });

  test('so many and no more; what is not readable is nothing', () => {
    const kept = keptEdits(1, 'lot_intake', null);
    for (let i = 0; i < 50; i++) kept.write(typed(String(i), kept.read()));
    let depth = 0;
    for (let k = kept.read(); k; k = k.earlier ?? null) depth++;
    expect(depth).toBe(5);
    for (const text of ['no json', '7', '[]', '{"edits":1}', '{"edits":[]}']) {
      store.set('brisk-kept 1 lot_intake new', text);
      expect(kept.read()).toBeNull();
    }
  });
});

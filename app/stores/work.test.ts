import { createPinia, setActivePinia } from 'pinia';
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { api } from '../composables/useApi';
import { standInServer } from '../testing/server';
import { useWork } from './work';

beforeEach(() => {
  setActivePinia(createPinia());
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const job = (state: string, progress: number, more: object = {}) => ({
  body: { state, progress, doing: 'counting', result: null, error: null, ...more },
});

const begun = (id: string) => () => Promise.resolve({ job: id });

test('long work is followed to its end, and is found while it runs', async () => {
  const states = [job('running', 0.3), job('running', 0.8), job('done', 1, { result: { tables: [] } })];
  const server = standInServer(({ path }) => (path === 'imports/package' ? { body: { job: 'j1' } } : states.shift()!));
  const work = useWork();
  const result = work.run(() => api.imports.package({ upload: 'a' }), 'bringing in');
  await vi.advanceTimersByTimeAsync(50);
  expect(work.running).toMatchObject([{ id: 'j1', words: 'bringing in', progress: 0.3, doing: 'counting' }]);
  await vi.advanceTimersByTimeAsync(2000);
  expect(await result).toEqual({ tables: [] });
  expect(work.running).toEqual([]);
  expect(server.sent[0]).toEqual({ method: 'POST', path: 'imports/package', body: { upload: 'a' } });
});

test('work that fails says why; what is stopped comes to nothing', async () => {
  standInServer(({ path, method }) =>
    method === 'DELETE'
      ? { body: {} }
      : path === 'good'
        ? { body: { job: 'slow' } }
        : path === 'bad'
          ? { body: { job: 'bad' } }
          : path === 'jobs/bad'
            ? job('failed', 0.1, { error: { code: 'full', message: 'The disk is full.', details: { left: 0 } } })
            : job('running', 0.1),
  );
  const work = useWork();
  const failed = work.run(begun('bad'), 'a').catch((e: unknown) => e);
  await vi.advanceTimersByTimeAsync(100);
  expect(await failed).toMatchObject({ code: 'full', message: 'The disk is full.', details: { left: 0 } });
  const stopped = work.run(begun('slow'), 'b');
  await vi.advanceTimersByTimeAsync(100);
  await work.cancel('slow');
  await vi.advanceTimersByTimeAsync(1000);
  expect(await stopped).toBeNull();
  expect(work.running).toEqual([]);
});

test('work that cannot be begun is none', async () => {
  standInServer(() => ({ status: 403, body: { code: 'forbidden', message: 'This is for those who design.' } }));
  const work = useWork();
  await expect(work.run(() => api.imports.package({ upload: 'c' }), 'c')).rejects.toMatchObject({
    status: 403,
    message: 'This is for those who design.',
  });
  expect(work.running).toEqual([]);
});

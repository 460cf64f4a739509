import { text } from 'node:stream/consumers';
import { setTimeout as after } from 'node:timers/promises';
import { expect, test, vi } from 'vitest';
import { exportCsv, wholeTable } from './exports';
import { exported } from './exported';
import type { JobHandle } from './jobs';
import { demoWorkspace, refusal } from '../testing/workspace';

const asTable = (table: string) => ({ what: 'table', table, as: 'csv' }) as const;

test('a file is what its pieces are; one that cannot be made is refused before anything of it is sent', async () => {
  const t = await demoWorkspace();
  const pieces: string[] = [];
  for await (const piece of exportCsv(t.ws, await wholeTable(t.ws, 'species'))) pieces.push(piece);
  expect(await text(await exported(t.ws, asTable('species')))).toBe(pieces.join(''));
  expect(await refusal(exported(t.ws, asTable('nowhere')))).toMatchObject({ status: 404 });
});

/** Work that hands on parts for as long as they are taken; counts them, and tells whether it was ended. */
function endless(ws: Awaited<ReturnType<typeof demoWorkspace>>['ws']) {
  const seen = { parts: 0, ended: false };
  vi.spyOn(ws.work, 'run').mockImplementation(async (_name, _input, job: JobHandle) => {
    while (!job.signal?.aborted) {
      await job.give?.(Buffer.alloc(100_000));
      seen.parts++;
      await after(1);
    }
    seen.ended = true;
    return undefined as never;
  });
  return seen;
}

test('little is made ahead of whoever takes it; who goes away, or takes nothing any more, ends the work', async () => {
  const t = await demoWorkspace();
  const gone = endless(t.ws);
  const file = await exported(t.ws, { what: 'tables' });
  await vi.waitFor(() => expect(gone.parts).toBeGreaterThan(15));
  await after(60);
  expect(gone.parts).toBeLessThan(25);
  // what is taken makes room for more
  for (let taken = 0; taken < 30; taken++) await new Promise((resolve) => (file.read(100_000) ? resolve(0) : file.once('readable', () => resolve(file.read(100_000))))); // prettier-ignore
  await vi.waitFor(() => expect(gone.parts).toBeGreaterThan(40));
  file.destroy();
  await vi.waitFor(() => expect(gone.ended).toBe(true));

  const stalled = endless(t.ws);
  const left = await exported(t.ws, { what: 'tables' }, 30);
  const failed = new Promise((resolve) => left.once('error', resolve));
  expect(String(await failed)).toMatch('Nobody took');
  await vi.waitFor(() => expect(stalled.ended).toBe(true));
});

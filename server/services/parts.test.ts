import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { closeDatabase } from '../database/connection';
import { Cancelled, UNWATCHED } from './jobs';
import { type PartDone, type Walk, inParts, recordPages, restOf } from './parts';
import { saveSubsets } from './structure';
import type { Workspace } from './workspace';
import { type TestWorkspace, demoWorkspace } from '../testing/workspace';

/* Records in parts: whichever part is done first, every record is looked at once, and what is found is kept in their order. */

let t: TestWorkspace;
beforeAll(async () => {
  t = await demoWorkspace();
  // as many as make several parts
  const columns = (await t.ws.modelTable('lots')).columns.filter((c) => c.key !== 'code').map((c) => `"${c.key}"`);
  await t.ws.db.raw(
    `INSERT INTO data_lots (code, ${columns.join(', ')}) SELECT 'B-' || n.id || '-' || m.id, ${columns.map((c) => `n.${c}`).join(', ')} FROM data_lots n CROSS JOIN (SELECT id FROM data_lots ORDER BY id LIMIT 60) m`,
  );
  t.ws.rowsChanged('lots');
}, 60_000);
afterAll(() => closeDatabase(t.ws.db));

/** A workspace whose threads are said to be so many. */
const withThreads = (atOnce: number): Workspace =>
  new Proxy(t.ws, {
    get: (ws, key) => (key === 'work' ? { atOnce } : Reflect.get(ws, key, ws)),
  });
const soon = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
const lots = async (): Promise<number[]> => ((await t.ws.db('data_lots').orderBy('id').select('id')) as { id: number }[]).map((r) => r.id);

/** A walk that finds the number of each record, after a while that is another for each part. */
function numbering(kept: number[], pauses: readonly number[], more: Partial<Walk<number, number>> = {}): Walk<number, number> {
  let no = 0;
  return {
    table: 'lots',
    which: { subset: null },
    total: 4000,
    carry: 0,
    oneByOne: false,
    async compute(part, carry, job): Promise<PartDone<number, number>> {
      const pause = pauses[no++ % pauses.length] ?? 0;
      const found: number[] = [];
      for await (const page of recordPages(t.ws, 'lots', part)) for (const { row } of page) found.push(row.id);
      await soon(pause);
      job.at(found.length);
      return { looked: found.length, found, carry: carry + found.length };
    },
    keep: (found) => {
      kept.push(...found);
      return Promise.resolve();
    },
    ...more,
  };
}

test('every record once, and in order, however long each part takes and however many are done at once', async () => {
  const all = await lots();
  expect(all.length).toBeGreaterThan(1000);
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 4 }),
      fc.array(fc.integer({ min: 0, max: 6 }), { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 1, max: 9000 }),
      fc.option(fc.subarray(all, { maxLength: 1200 })),
      async (atOnce, pauses, total, rows) => {
        const kept: number[] = [];
        const looked = await inParts(withThreads(atOnce), numbering(kept, pauses, { total, which: { subset: null, rows } }), UNWATCHED);
        expect(kept).toEqual(rows ?? all);
        expect(looked).toBe(kept.length);
      },
    ),
    { numRuns: 25 },
  );
});

test('of a subset each record once, whatever parts were begun past its end', async () => {
  const subset = 'heavy';
  await saveSubsets(t.ws, 'lots', [{ key: subset, label: 'Heavy', condition: 'choice.quantity_g > 20' }]);
  const whole: number[] = [];
  for await (const page of recordPages(t.ws, 'lots', { subset, offset: 0, limit: 1e6 })) whole.push(...page.map((r) => r.row.id));
  expect(whole.length).toBeGreaterThan(500);
  for (const atOnce of [1, 3]) {
    const kept: number[] = [];
    await inParts(withThreads(atOnce), numbering(kept, [3, 0], { which: { subset } }), UNWATCHED);
    expect(kept).toEqual(whole);
  }
});

test('one by one, each part goes on with what the one before came to', async () => {
  const begun: number[] = [];
  const kept: number[] = [];
  const walk = numbering(kept, [0], { oneByOne: true });
  const compute: typeof walk.compute = (part, carry, job) => {
    begun.push(carry);
    return walk.compute(part, carry, job);
  };
  const looked = await inParts(withThreads(4), { ...walk, compute }, UNWATCHED);
  const sizes = begun.slice(1).map((carry, i) => carry - begun[i]!);
  expect(begun.length).toBeGreaterThan(1);
  expect(sizes.every((s) => s >= 500)).toBe(true);
  expect(looked).toBe(kept.length);
});

test('a part that finds too much ends early; what is left of it is done before what comes behind it', async () => {
  const all = await lots();
  await saveSubsets(t.ws, 'lots', [{ key: 'heavy', label: 'Heavy', condition: 'choice.quantity_g > 20' }]);
  const inHeavy = new Set<number>();
  for await (const page of recordPages(t.ws, 'lots', { subset: 'heavy', offset: 0, limit: 1e6 }))
    for (const { row } of page) inHeavy.add(row.id);
  for (const which of [{ subset: null }, { subset: 'heavy' }, { subset: null, rows: all.filter((_, i) => i % 3 === 0) }]) {
    const kept: number[] = [];
    const walk = numbering(kept, [2, 0], { which });
    let early = 0;
    const compute: typeof walk.compute = async (part, carry, job) => {
      const whole = await walk.compute(part, carry, job);
      const found = whole.found.slice(0, 350);
      if (found.length === whole.found.length) return whole;
      early++;
      return { looked: found.length, found, carry: carry + found.length, rest: restOf(part, found.length, found.at(-1)!) };
    };
    const looked = await inParts(withThreads(3), { ...walk, compute }, UNWATCHED);
    expect(kept).toEqual(which.rows ?? all.filter((id) => which.subset === null || inHeavy.has(id)));
    expect(looked).toBe(kept.length);
    expect(early).toBeGreaterThan(0);
  }
});

test('when a part fails the others are ended, nothing more is kept, and why is said', async () => {
  const kept: number[] = [];
  const ended: boolean[] = [];
  const walk = numbering(kept, [0]);
  let no = 0;
  const compute: typeof walk.compute = async (part, carry, job) => {
    if (no++ === 1) throw new Error('Part two is broken.');
    const done = await walk.compute(part, carry, job);
    await soon(5);
    ended.push(job.signal?.aborted === true);
    return done;
  };
  const first = await lots();
  await expect(inParts(withThreads(3), { ...walk, compute }, UNWATCHED)).rejects.toThrow('Part two is broken.');
  expect(ended).toContain(true);
  expect(kept).toEqual(first.slice(0, kept.length));
  expect(kept.length).toBeLessThan(first.length);
});

test('cancelled while it tells how far it is, it ends', async () => {
  const kept: number[] = [];
  const cancelled = { at: () => { throw new Cancelled(); } }; // prettier-ignore
  await expect(inParts(withThreads(2), numbering(kept, [0]), cancelled)).rejects.toBeInstanceOf(Cancelled);
});

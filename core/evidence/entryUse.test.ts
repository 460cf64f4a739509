import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type EntryHow, countsOf, entryUseOf } from './entryUse.ts';

const choice = (more: object = {}) => ({ field: 'species', offered: 200, at: 0, searched: '', ...more });

test('how long it took, by version: the middle of what was counted in steps', () => {
  const entries = [...[12, 14, 13, 40, 300].map((seconds) => [1, seconds]), ...[8, 9, 9].map((seconds) => [2, seconds])];
  const { times } = entryUseOf(entries.flatMap(([version, seconds]) => countsOf(version!, { seconds: seconds!, choices: [] })));
  expect(times.map((t) => [t.version, t.entries])).toEqual([[1, 5], [2, 3]]); // prettier-ignore
  expect(times[0]!.seconds).toBeGreaterThan(10);
  expect(times[0]!.seconds).toBeLessThanOrEqual(15);
  expect(times[1]!.seconds).toBeLessThanOrEqual(10);
});

test('of a list: how many were offered, where the chosen stood, what was searched and not found', () => {
  const how: EntryHow[] = [
    { seconds: null, choices: [choice(), choice({ at: 1, searched: 'Que' }), choice({ at: 6, searched: ' que ' })] },
    { seconds: 20, choices: [choice({ at: null, searched: 'willow' }), choice({ at: null, searched: 'Willow' }), choice({ field: 'site', offered: 4, at: 0 })] }, // prettier-ignore
  ];
  const { lists, times } = entryUseOf(how.flatMap((h) => countsOf(3, h)));
  expect(times).toMatchObject([{ version: 3, entries: 1 }]);
  expect(lists).toMatchObject([
    { field: 'species', chosen: 3, first: 1, unsearched: 1, searched: [{ text: 'que', count: 2 }], nothing: 2, sought: [{ text: 'willow', count: 2 }] }, // prettier-ignore
    { field: 'site', chosen: 1, first: 1, nothing: 0 },
  ]);
  expect(lists[0]!.offered).toBeGreaterThan(100);
  expect(lists[0]!.offered).toBeLessThanOrEqual(200);
});

test('counts added up are those of all entries together, and the middle lies in the step of the true one', () => {
  const steps = [0, 5, 10, 15, 20, 30, 45, 60, 90, 120, 180, 240, 300];
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 300 }), { minLength: 1, maxLength: 60 }), (all) => {
      const { times } = entryUseOf(all.flatMap((seconds) => countsOf(1, { seconds, choices: [] })));
      expect(times[0]!.entries).toBe(all.length);
      const sorted = [...all].sort((a, b) => a - b);
      const lower = sorted[Math.ceil(all.length / 2) - 1]!;
      const upper = steps.find((s) => lower <= s)!;
      const from = steps[steps.indexOf(upper) - 1]!;
      expect(times[0]!.seconds).toBeGreaterThan(from - 1e-9);
      expect(times[0]!.seconds).toBeLessThanOrEqual(upper);
    }),
  );
});

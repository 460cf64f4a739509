import fc from 'fast-check';
import { expect, test } from 'vitest';
import { lanesOf } from './lanes';

test('no two tracks in one lane overlap, and every driver has one', () => {
  const link = fc.tuple(fc.nat(15), fc.nat(15)).map(([from, to]) => ({ from: `f${from}`, to: `f${to}` }));
  fc.assert(
    fc.property(fc.array(link, { maxLength: 30 }), (links) => {
      const y = (key: string): number => Number(key.slice(1)) * 40;
      const lanes = lanesOf(links, y);
      expect(lanes.map((l) => l.driver).sort()).toEqual([...new Set(links.map((l) => l.from))].sort());
      const span = (l: (typeof lanes)[number]): [number, number] => {
        const ys = [l.driver, ...l.dependents].map(y);
        return [Math.min(...ys), Math.max(...ys)];
      };
      for (const a of lanes) {
        for (const b of lanes) {
          if (a === b || a.lane !== b.lane) continue;
          const [at, ab] = span(a);
          const [bt, bb] = span(b);
          expect(ab < bt || at > bb).toBe(true);
        }
      }
    }),
  );
});

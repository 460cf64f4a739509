import fc from 'fast-check';
import { expect, test } from 'vitest';
import { type Column } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import type { Datum } from '../values/types.ts';
import { togetherIn } from './together.ts';

const column = (key: string, type = 'text'): Column => columnSchema.parse({ key, label: key, type });
const look = (rows: readonly Record<string, Datum>[], types: Record<string, string> = {}) => {
  const keys = Object.keys(rows[0] ?? {});
  return togetherIn(
    keys.map((k) => column(k, types[k])),
    new Map(keys.map((k) => [k, rows.map((r) => r[k] ?? null)])),
    rows.map((_, i) => i + 1),
  );
};
/** A generator that gives the same for the same seed. */
function dice(seed: number): (n: number) => number {
  let at = seed >>> 0 || 1;
  return (n) => {
    at = (Math.imul(at, 1664525) + 1013904223) >>> 0;
    return Math.floor((at / 2 ** 32) * n);
  };
}

test('each site has one region, each region one country: the regions first, then the sites that lie in them', () => {
  const roll = dice(7);
  const rows = Array.from({ length: 400 }, (_, i) => {
    const site = roll(24);
    return {
      number: `L${i}`,
      site: `Site ${site}`,
      region: `Region ${site % 6}`,
      country: site % 6 < 3 ? 'Here' : 'There',
      grams: roll(10_000) / 7,
    };
  });
  const [chain, ...others] = look(rows, { grams: 'number' });
  expect(others).toEqual([]);
  expect(chain).toMatchObject([
    { by: 'region', columns: ['country'], values: 6, fits: 400, of: 400, exceptions: [] },
    { by: 'site', columns: ['region'], values: 24, fits: 400, of: 400, exceptions: [] },
  ]);
});

test('a few that say otherwise are told, with what most say; case does not matter', () => {
  const rows = Array.from({ length: 200 }, (_, i) => ({ site: i % 3 ? `site ${i % 10}` : `Site ${i % 10}`, region: `R${i % 2}` as Datum }));
  rows[17]!.region = 'R0';
  rows[30]!.region = null;
  const [[group] = []] = look(rows);
  expect(group).toMatchObject({ by: 'site', columns: ['region'], values: 10, fits: 198, of: 200 });
  expect(group!.exceptions).toEqual([
    { row: 18, column: 'region', said: 'R0', mostly: 'R1' },
    { row: 31, column: 'region', said: null, mostly: 'R0' },
  ]);
});

test('a code and a name that say each other are one thing, called by the name', () => {
  const rows = Array.from({ length: 90 }, (_, i) => ({ code: `A${i % 9}`, name: `The place numbered ${i % 9}`, height: (i % 9) * 10.5 }));
  expect(look(rows, { height: 'number' })).toMatchObject([[{ by: 'name', columns: ['code', 'height'] }]]);
});

test('what stands once in each row, what is the same in all, and what chance alone gives is no table', () => {
  fc.assert(
    fc.property(fc.integer(), fc.integer({ min: 20, max: 600 }), (seed, n) => {
      const roll = dice(seed);
      const rows = Array.from({ length: n }, (_, i) => ({
        number: `N${i}`, same: 'always', a: `a${roll(5)}`, b: `b${roll(12)}`, c: `c${roll(2)}`, d: `d${roll(Math.ceil(n / 3))}`, e: roll(4),
      })); // prettier-ignore
      expect(look(rows, { e: 'number' })).toEqual([]);
    }),
    { numRuns: 100 },
  );
});

test('every group counts what a plain count gives', () => {
  fc.assert(
    fc.property(fc.integer(), fc.integer({ min: 60, max: 300 }), fc.integer({ min: 2, max: 12 }), (seed, n, sites) => {
      const roll = dice(seed);
      const place = Array.from({ length: sites }, (_, i) => ({ region: `R${i % 3}`, soil: `S${roll(4)}` }));
      const rows = Array.from({ length: n }, () => {
        const s = roll(sites);
        const odd = roll(200) === 0;
        return { site: `Site ${s}`, region: (odd ? 'R9' : place[s]!.region) as Datum, soil: place[s]!.soil as Datum };
      });
      for (const group of look(rows).flat()) {
        const most = (key: Datum, c: string): number => {
          const counts = new Map<Datum, number>();
          for (const r of rows as Record<string, Datum>[]) if (r[group.by] === key) counts.set(r[c]!, (counts.get(r[c]!) ?? 0) + 1);
          return Math.max(...counts.values());
        };
        const keys = [...new Set((rows as Record<string, Datum>[]).map((r) => r[group.by]!))];
        if (group.columns.length === 1) expect(group.fits).toBe(keys.reduce<number>((sum, k) => sum + most(k, group.columns[0]!), 0));
        expect(group.values).toBe(keys.length);
        expect(group.of).toBe(n);
        expect(group.of - group.fits).toBeGreaterThanOrEqual(Math.min(group.exceptions.length, 30));
      }
    }),
    { numRuns: 100 },
  );
});

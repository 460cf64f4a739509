import { describe, expect, test } from 'vitest';
import { type RouteSpec, isRoute } from '../core/contract/define.ts';
import { contract } from '../core/contract/index.ts';
import { partsNamed, rulesOf, withTheirParts } from './partStyles';
import { addresses } from './routeAddresses';
import { ringAmong, ringProblem } from './scriptCycles';

const app = new URL('../app', import.meta.url).pathname;

describe('the styles of the parts', () => {
  test('those that a part is made of come with it', () => {
    expect(withTheirParts(['select'])).toEqual(expect.arrayContaining(['select', 'virtualscroller', 'iconfield', 'inputtext']));
    expect(withTheirParts(['datatable'])).toContain('paginator');
  });
  test('parts are found by their tags and by what scripts import', () => {
    const named = partsNamed(app);
    // named in a template; only imported, by StaySelect.ts
    expect(named).toEqual(expect.arrayContaining(['button', 'datatable', 'select', 'tooltip']));
    expect(named).not.toContain('chart');
  });
  test('one text has the layers in order, the tokens of our preset and the rules of each part', async () => {
    const rules = await rulesOf(withTheirParts(['button', 'select', 'tooltip']));
    expect(rules.startsWith('@layer base, primevue, brisk;')).toBe(true);
    for (const name of ['.p-button', '.p-select', '.p-virtualscroller', '.p-tooltip', '--p-button-', '[data-scheme="dark"]'])
      expect(rules, name).toContain(name);
    expect(rules).toContain('var(--act)');
    expect(rules).not.toMatch(/<\/?style|dt\(|undefined/);
    expect(rules).not.toContain('.p-datatable');
  });
});

test('the browser’s contract asks every route where the server listens, and holds no schema', () => {
  const told: unknown = JSON.parse(JSON.stringify(addresses(contract)));
  let routes = 0;
  const compare = (whole: object, part: Record<string, unknown>): void => {
    expect(Object.keys(part)).toEqual(Object.keys(whole));
    for (const [name, x] of Object.entries(whole) as [string, unknown][]) {
      if (!isRoute(x)) {
        compare(x as object, part[name] as Record<string, unknown>);
        continue;
      }
      const route = part[name] as RouteSpec;
      expect(isRoute(route)).toBe(true);
      expect({ method: route.method, path: route.path, sends: Boolean(route.body) }).toEqual({ method: x.method, path: x.path, sends: x.body !== null }); // prettier-ignore
      routes++;
    }
  };
  compare(contract, told as Record<string, unknown>);
  expect(routes).toBeGreaterThan(100);
});

test('files that ask for each other in a ring are found, however long it is; those that only share one are none', () => {
  const ring = (asks: Record<string, string[]>) => ringAmong(new Map(Object.entries(asks)));
  expect(ring({ a: ['b', 'c'], b: ['d'], c: ['d'], d: [] })).toBeNull();
  expect(ring({ a: ['b'], b: ['c'], c: ['d'], d: ['b'] })).toEqual(['b', 'c', 'd', 'b']);
  expect(ring({ a: [], b: ['b'] })).toEqual(['b', 'b']);
  // a file from elsewhere
  expect(ring({ a: ['elsewhere'] })).toBeNull();
  const chunk = (fileName: string, name: string, imports: string[]) => ({ type: 'chunk', fileName, name, imports });
  expect(ringProblem({ x: chunk('x.js', 'over', ['y.js']), y: chunk('y.js', 'asked', ['x.js']) })).toBe(
    'Files of the script ask for each other: x.js (over) → y.js (asked) → x.js (over). See scriptOf in nuxt.config.ts.',
  );
  expect(ringProblem({ x: chunk('x.js', 'over', ['y.js']), y: { type: 'asset', fileName: 'y.js' } })).toBeNull();
});

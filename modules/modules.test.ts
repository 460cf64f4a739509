import { describe, expect, test } from 'vitest';
import { type RouteSpec, isRoute } from '../core/contract/define.ts';
import { contract } from '../core/contract/index.ts';
import { partsNamed, rulesOf, withTheirParts } from './partStyles';
import { addresses } from './routeAddresses';

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

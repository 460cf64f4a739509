import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { parseForm } from '../form/schemas.ts';
import { lotForm } from '../testing/seedbank.ts';
import { answerProblem, pathOf } from './define.ts';
import { contract } from './index.ts';
import { atOnce } from '../engine/inSteps.ts';
import { allRoutes, formJsonSchema, openApiInSteps } from './openapi.ts';

const root = join(import.meta.dirname, '../..');
const FILE = /^(.*?)(?:\/index)?\.(get|post|put|patch|delete)\.ts$/;
/** The routes that the server has files for, by method and path, with what stands in the file. */
const files = new Map<string, string>(
  readdirSync(join(root, 'server/api'), { recursive: true, encoding: 'utf8' }).flatMap((file) => {
    const [, path = '', method = ''] = FILE.exec(file.replaceAll('\\', '/')) ?? [];
    const asked = path.replace(/\[(\w+)\]/g, ':$1');
    return method ? [[`${method.toUpperCase()} ${asked}`, readFileSync(join(root, 'server/api', file), 'utf8')] as const] : [];
  }),
);

describe('the contract', () => {
  test('has every route of the server and no other, and each file is the route it says', () => {
    const routes = new Map<string, string>(allRoutes().map(({ name, route }) => [`${route.method} ${route.path}`, name]));
    expect([...routes.keys()].sort()).toEqual([...files.keys()].sort());
    for (const [asked, name] of routes) {
      // health answers by its own rules, also while there is no database to answer from
      if (name !== 'about.health') expect(files.get(asked), asked).toMatch(new RegExp(`[rR]oute\\(\\s*contract\\.${name},`));
    }
  });

  test('says who may ask: nothing but signing in and what is told of the server itself is for anybody', () => {
    const open = allRoutes().filter(({ route }) => route.may === 'anybody');
    expect(open.map((r) => r.name)).toEqual([
      'about.health',
      'about.openApi',
      'about.formSchema',
      'session.read',
      'session.begin',
      'session.end',
      'welcome.read',
      'welcome.use',
    ]);
    expect(allRoutes().filter(({ route }) => route.may === 'signedIn' && route.path.startsWith('tables')).map((r) => r.name)).toEqual(['tables.look']); // prettier-ignore
  });

  test('a path is filled in so that nothing put into it can lead elsewhere', () => {
    expect(pathOf(contract.tables.look, { key: 'lots', id: 7 })).toBe('tables/lots/rows/7');
    expect(() => pathOf(contract.tables.look, { key: 'lots' })).toThrow(RangeError);
    for (const key of ['', '.', '..']) expect(() => pathOf(contract.forms.draft, { key })).toThrow(RangeError);
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (key) => {
        fc.pre(!['', '.', '..'].includes(key));
        const filled = pathOf(contract.forms.draft, { key });
        expect(filled.split('/')).toHaveLength(3);
        expect(decodeURIComponent(filled.split('/')[1]!)).toBe(key);
        expect(new URL(filled, 'http://here/').pathname.split('/')).toHaveLength(4);
        expect(filled).not.toMatch(/[?#]/);
      }),
    );
  });
});

describe('an answer held against its route', () => {
  const answer = z.object({ rows: z.array(z.object({ id: z.number() })), note: z.string().optional() });
  test('fits as it travels: what JSON leaves out is not missed', () => {
    expect(answerProblem(answer, { rows: [{ id: 1 }], note: undefined })).toBeNull();
  });
  test('is told of by place: what is missing, of another type, or not declared', () => {
    expect(answerProblem(answer, { rows: [{ id: 1 }, { id: '2' }] })).toMatch(/^rows\.1\.id: /);
    expect(answerProblem(answer, {})).toMatch(/^rows: /);
    expect(answerProblem(answer, { rows: [{ id: 1, secret: 'x' }] })).toBe('rows.0.secret is not declared');
    expect(answerProblem(answer, { rows: [], note: NaN })).toMatch(/^note: /);
  });
});

describe('described for programs', () => {
  test('the OpenAPI description is valid, and has every route with its names and who may', async () => {
    const description = atOnce(openApiInSteps());
    const found = await new Validator().validate(structuredClone(description));
    expect(found).toMatchObject({ valid: true });
    const operations = Object.values(description.paths as Record<string, Record<string, { operationId: string; parameters: { in: string; name: string }[] }>>).flatMap((p) => Object.values(p)); // prettier-ignore
    expect(operations.map((o) => o.operationId).sort()).toEqual(allRoutes().map((r) => r.name).sort()); // prettier-ignore
    const look = operations.find((o) => o.operationId === 'tables.look');
    expect(look?.parameters.filter((p) => p.in === 'path').map((p) => p.name)).toEqual(['key', 'id']);
    const rows = operations.find((o) => o.operationId === 'tables.rows');
    expect(rows?.parameters.filter((p) => p.in === 'query').map((p) => p.name)).toEqual([
      'search',
      'sort',
      'descending',
      'offset',
      'limit',
    ]);
  });

  test('values in an address that go by no names of their own are described, too', () => {
    const begin = (atOnce(openApiInSteps()).paths as Record<string, { get: { parameters: unknown[] } }>)['/api/forms/{key}/entry']?.get
      .parameters;
    expect(begin).toMatchObject([{ name: 'key' }, { name: 'values', in: 'query', explode: true, schema: { type: 'object' } }]);
  });

  test('every reference in it leads somewhere', () => {
    const text = JSON.stringify(atOnce(openApiInSteps()));
    const { components } = JSON.parse(text) as { components: { schemas: object } };
    const references = [...text.matchAll(/"\$ref":"#([^"]*)"/g)].map((m) => m[1]!);
    expect(references.length).toBeGreaterThan(allRoutes().length);
    for (const to of new Set(references)) expect(components.schemas, to).toHaveProperty([to.replace('/components/schemas/', '')]);
  });

  test('the JSON Schema of a form takes what the product takes, and refuses what it refuses', () => {
    const valid = new Ajv2020({ strict: false }).compile(formJsonSchema());
    const form = JSON.parse(JSON.stringify(parseForm(lotForm()))) as Record<string, unknown>;
    expect(valid(form), JSON.stringify(valid.errors)).toBe(true);
    expect(valid({ ...form, pages: 'one' })).toBe(false);
    expect(valid({ ...form, table: undefined })).toBe(false);
    const { table: _, ...without } = form;
    expect(valid(without)).toBe(false);
  });
});

import { narrowRows } from '../choices/narrowing.ts';
import { narrowingOfPick } from '../engine/picks.ts';
import { formula } from '../formula/formula.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting } from '../formula/errors.ts';
import type { Binding, Scope, TableShape } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import type { Row } from '../values/types.ts';
import { writeOut } from '../formula/write.ts';

/** A small world for formula tests: families ‹ genera ‹ species, and fields of every type. */
const table = (key: string, label: string, columns: Record<string, T.Type>): TableShape => ({
  key,
  label,
  shown: 'name',
  columns: new Map(Object.entries(columns).map(([k, type]) => [k, { key: k, label: k, type }])),
});

export const TABLES = new Map([
  ['families', table('families', 'Families', { name: T.TEXT })],
  ['genera', table('genera', 'Genera', { name: T.TEXT, family: T.rowOf('families') })],
  ['species', table('species', 'Species', { name: T.TEXT, genus: T.rowOf('genera'), storage_c: T.NUMBER, active: T.YESNO })],
  ['people', table('people', 'People', { name: T.TEXT, email: T.TEXT })],
]);

const FIELDS: readonly (readonly [string, T.Type])[] = [
  ['a', T.NUMBER],
  ['b', T.NUMBER],
  ['c', T.NUMBER],
  ['word', T.TEXT],
  ['yes', T.YESNO],
  ['day', T.DATE],
  ['species', T.rowOf('species')],
  ['genus', T.rowOf('genera')],
  ['kind', { kind: 'choice', options: ['dry', 'wet'] }],
  ['moment', T.DATETIME],
  ['midnight', T.DATETIME],
  ['many', T.listOf(T.NUMBER)],
];
/** What stands in fields that a test does not give. */
const STANDING: Readonly<Record<string, Result>> = { moment: '2026-03-01T12:00:00', midnight: '2026-03-01T00:00:00' };

export function testScope(): Scope {
  const bindings = new Map<string, Binding>();
  FIELDS.forEach(([name, type], slot) => bindings.set(name, { name, label: name, type, source: { kind: 'slot', slot } }));
  bindings.set('me', { name: 'me', label: 'me', type: T.rowOf('people'), source: { kind: 'me' } });
  bindings.set('last', { name: 'last', label: 'last', type: T.rowOf('species'), source: { kind: 'last' } });
  const columns = new Map([['word', 'word']]);
  bindings.set('before', {
    name: 'before',
    label: 'before',
    type: { kind: 'object', members: new Map([['word', T.TEXT]]) },
    source: { kind: 'before', columns },
  });
  return {
    bindings,
    tables: TABLES,
    maps: new Map([
      [
        'fees',
        {
          label: 'Fees',
          values: new Map([
            ['COURIER', 14],
            ['POST', 3.5],
          ]),
        },
      ],
    ]),
    feeds: new Map([
      [
        'weather',
        {
          key: 'weather',
          label: 'Weather',
          params: [{ key: 'day', label: 'Day', type: T.DATE, required: true }],
          members: new Map([['temperature', T.NUMBER]]),
        },
      ],
    ]),
  };
}

export const ROWS: Record<string, Row[]> = {
  families: [{ id: 1, name: 'Fagaceae' }],
  genera: [{ id: 10, name: 'Quercus', family: 1 }],
  species: [{ id: 100, name: 'Quercus robur', genus: 10, storage_c: 2, active: true }],
  people: [{ id: 7, name: 'Ida Fenn', email: 'ida@marrowfen.example' }],
};

export function testEnv(values: Record<string, Result> = {}): Env {
  return {
    values: FIELDS.map(([name]) => values[name] ?? STANDING[name] ?? null),
    candidate: null,
    params: [],
    today: '2026-03-10',
    now: '2026-03-10T09:30:00',
    me: 7,
    mode: 'new',
    url: {},
    outer: null,
    parent: null,
    before: null,
    lines: () => [],
    item: () => null,
    row: (key, id) => ROWS[key]?.find((r) => r.id === id) ?? null,
    data: {
      pick(part, env) {
        const narrowing = narrowingOfPick(part);
        env.params = narrowing.params.map((x) => x.run(env));
        const { rows } = narrowRows(narrowing, ROWS[part.table] ?? [], new Set(), env);
        return part.many ? rows.map((r) => r.id) : (rows[0]?.id ?? null);
      },
      series: () => 1,
      last: () => null,
      feed: (_, params) => ({ id: 1, value: 'a', temperature: params.day === '2026-03-01' ? 6 : 9 }),
    },
  };
}

/** Evaluates text in the small world and prints the result as examples in the declarations do. */
export function evaluateText(text: string, values: Record<string, Result> = {}): string {
  const f = formula(text, testScope());
  const errors = f.problems.filter((p) => p.severity === 'error');
  if (errors.length) return `problem: ${errors.map((e) => e.message).join(' | ')}`;
  const result = f.run(testEnv(values));
  if (result === null) return 'empty';
  if (result instanceof FormulaError) return `error: ${result.code}`;
  if (result instanceof Waiting) return 'waiting';
  return writeOut(result, f.type);
}

/** The result itself of a text without mistakes; a FormulaError when it fails, undefined when the text has a mistake. */
export function evaluate(text: string, values: Record<string, Result> = {}): Result | undefined {
  const f = formula(text, testScope());
  return f.problems.some((p) => p.severity === 'error') ? undefined : f.run(testEnv(values));
}

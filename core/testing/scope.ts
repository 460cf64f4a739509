import { formula } from '../formula/formula.ts';
import type { Env } from '../formula/env.ts';
import { FormulaError, type Result, Waiting } from '../formula/errors.ts';
import type { Binding, Scope, TableShape } from '../formula/scope.ts';
import * as T from '../formula/types.ts';
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
];

export function testScope(): Scope {
  const bindings = new Map<string, Binding>();
  FIELDS.forEach(([name, type], slot) => bindings.set(name, { name, label: name, type, source: { kind: 'slot', slot } }));
  bindings.set('me', { name: 'me', label: 'me', type: T.rowOf('people'), source: { kind: 'me' } });
  return { bindings, tables: TABLES };
}

export const ROWS: Record<string, Row[]> = {
  families: [{ id: 1, name: 'Fagaceae' }],
  genera: [{ id: 10, name: 'Quercus', family: 1 }],
  species: [{ id: 100, name: 'Quercus robur', genus: 10, storage_c: 2, active: true }],
  people: [{ id: 7, name: 'Ida Fenn', email: 'ida@marrowfen.example' }],
};

export function testEnv(values: Record<string, Result> = {}): Env {
  return {
    values: FIELDS.map(([name]) => values[name] ?? null),
    candidate: null,
    params: [],
    today: '2026-03-10',
    now: '2026-03-10T09:30:00',
    me: 7,
    mode: 'new',
    url: {},
    row: (key, id) => ROWS[key]?.find((r) => r.id === id) ?? null,
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

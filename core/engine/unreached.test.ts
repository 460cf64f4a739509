import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Form } from '../form/definition.ts';
import type { Row } from '../values/types.ts';
import { CONTEXT, LOT_FIELDS, SEEDBANK, SEEDBANK_TABLES, lotForm, openSettled } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
import { openEntry } from './entry.ts';
import { unreachedIn } from './unreached.ts';

/* Choices nobody can reach: what belongs to something that the field above never offers. */
const link = (key: string, more: object): object => {
  const base = LOT_FIELDS[key] as { source: object };
  return { ...base, required: null, source: { ...base.source, fillUp: false, single: 'leave', ...more } };
};
const formOf = (family: string | null, genus: object, species: object): Form =>
  lotForm({ family: link('family', { where: family }), genus: link('genus', genus), species: link('species', species) });
const told = (form: Form): string[] =>
  unreachedIn(openSettled(compileForm(form, SEEDBANK_TABLES))).map((p) => `${p.field ?? ''}: ${p.message}`);
const GENUS = { where: 'choice.family = family', waiting: 'none' };
const SPECIES = { where: 'choice.genus = genus AND choice.active', waiting: 'none' };

/** The tables with other rows: families that are not there, species without a genus. */
const tablesWith = (change: (rows: Record<string, Row[]>) => void): Record<string, Row[]> => {
  const rows = Object.fromEntries(SEEDBANK.map((t) => [t.key, t.data.map((r) => ({ ...r }) as Row)]));
  change(rows);
  return rows;
};
function toldOf(form: Form, rows: Record<string, Row[]>): string[] {
  const entry = openEntry(compileForm(form, SEEDBANK_TABLES), CONTEXT);
  for (let i = 0; i < 20 && entry.wants.length; i++)
    entry.supply(
      entry.wants.map((want) => ({
        want,
        answer: { kind: 'table' as const, rows: want.kind === 'table' ? (rows[want.table] ?? []) : [] },
      })),
    );
  return unreachedIn(entry).map((p) => `${p.field ?? ''}: ${p.message}`);
}

test('the cascade is walked from the top', () => {
  expect(told(formOf(null, GENUS, SPECIES))).toEqual([]);
  const gone = tablesWith((rows) => void (rows.families = rows.families!.filter((f) => f.name !== 'Rosaceae')));
  expect(toldOf(formOf(null, GENUS, SPECIES), gone)).toEqual([
    'genus: 2 of its 5 choices can never be chosen, because Family never offers what they belong to: Prunus, Rosa.',
    'species: 3 of its 7 choices can never be chosen, because Genus never offers what they belong to: Prunus avium, Rosa arvensis, Rosa canina.',
  ]);
  const alone = tablesWith((rows) => void (rows.species = rows.species!.map((s) => (s.id === 301 ? { ...s, genus: null } : s))));
  expect(toldOf(formOf(null, GENUS, SPECIES), alone)).toEqual([
    'species: 1 of its choices can never be chosen, because it belongs to no Genus: Betula pubescens.',
  ]);
});
test('what a list leaves out on purpose takes what belongs to it along', () => {
  expect(told(formOf('choice.name <> "Rosaceae"', GENUS, SPECIES))).toEqual([]);
});
test('what a list leaves out on purpose is not told; nor what one that offers all while it waits can give', () => {
  expect(told(formOf(null, GENUS, { ...SPECIES, where: 'choice.genus = genus AND NOT(choice.active)' }))).toEqual([]);
  expect(told(formOf('choice.name = "Rosaceae"', { ...GENUS, waiting: 'all' }, { ...SPECIES, waiting: 'all' }))).toEqual([]);
});
test('a field above that a formula fills may hold anything', () => {
  const gone = tablesWith((rows) => void (rows.families = []));
  const form = formOf(null, GENUS, SPECIES);
  const filled = { ...form, fields: { ...form.fields, family: { ...form.fields.family!, value: { kind: 'default', formula: 'PICK(families, choice.name = "Fagaceae")', typedOver: 'keep', recalculate: 'always', when: null } } } } as unknown as Form; // prettier-ignore
  expect(toldOf(form, gone)).toHaveLength(2);
  expect(toldOf(filled, gone)).toEqual([]);
});

test('what is told to be out of reach is never offered, whatever is chosen above; and where no condition leaves any out, all of it is told', () => {
  const ids = (table: string): number[] => SEEDBANK.find((t) => t.key === table)!.data.map((r) => r.id);
  let out = 0;
  fc.assert(
    fc.property(fc.subarray(ids('families'), { maxLength: 2 }), fc.subarray(ids('genera'), { maxLength: 2 }), (families, genera) => {
      const rows = tablesWith((r) => {
        r.families = r.families!.filter((f) => !families.includes(f.id));
        r.genera = r.genera!.filter((g) => !genera.includes(g.id));
        r.species = r.species!.filter((s) => s.active);
      });
      const form = formOf(null, GENUS, { ...SPECIES, where: 'choice.genus = genus' });
      const entry = openEntry(compileForm(form, SEEDBANK_TABLES), CONTEXT);
      const settle = (): void => {
        for (let i = 0; i < 20 && entry.wants.length; i++)
          entry.supply(entry.wants.map((want) => ({ want, answer: { kind: 'table' as const, rows: want.kind === 'table' ? (rows[want.table] ?? []) : [] } })));
      };
      settle();
      const offered = { genus: new Set<number>(), species: new Set<number>() };
      const note = (field: 'genus' | 'species'): void => entry.offer(field)?.rows?.forEach((r) => offered[field].add(r.id));
      for (const f of entry.offer('family')?.rows ?? []) {
        entry.apply([{ kind: 'set', field: 'family', value: f.id }]);
        settle();
        note('genus');
        for (const g of entry.offer('genus')?.rows ?? []) {
          entry.apply([{ kind: 'set', field: 'genus', value: g.id }]);
          settle();
          note('species');
        }
      }
      const problems = unreachedIn(entry);
      for (const [field, table] of [['genus', 'genera'], ['species', 'species']] as const) {
        const count = Number(/^(\d+) of/.exec(problems.find((p) => p.field === field)?.message ?? '')?.[1] ?? 0);
        expect(count).toBe(rows[table]!.filter((r) => !offered[field].has(r.id)).length);
        out += count;
      }
    }),
    { numRuns: 60 },
  );
  expect(out).toBeGreaterThan(10);
}); // prettier-ignore

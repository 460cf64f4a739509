import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { Form } from '../form/definition.ts';
import { LOT_FIELDS, SEEDBANK, SEEDBANK_TABLES, lotForm, openSettled } from '../testing/seedbank.ts';
import { compileForm } from './compile.ts';
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

test('the cascade is walked from the top', () => {
  expect(told(formOf(null, GENUS, SPECIES))).toEqual([]);
  expect(told(formOf('choice.name <> "Rosaceae"', GENUS, SPECIES))).toEqual([
    'genus: 2 of its 5 choices can never be chosen, because Family never offers what they belong to: Prunus, Rosa.',
    'species: 3 of its 7 choices can never be chosen, because Genus never offers what they belong to: Prunus avium, Rosa arvensis, Rosa canina.',
  ]);
});
test('what a list leaves out on purpose is not told; nor what one that offers all while it waits can give', () => {
  expect(told(formOf(null, GENUS, { ...SPECIES, where: 'choice.genus = genus AND NOT(choice.active)' }))).toEqual([]);
  expect(told(formOf('choice.name = "Rosaceae"', { ...GENUS, waiting: 'all' }, { ...SPECIES, waiting: 'all' }))).toEqual([]);
});
test('a field above that a formula fills may hold anything', () => {
  const form = formOf('choice.name = "Rosaceae"', GENUS, SPECIES);
  const filled = { ...form, fields: { ...form.fields, family: { ...form.fields.family!, value: { kind: 'default', formula: 'PICK(families, choice.name = "Fagaceae")', typedOver: 'keep', recalculate: 'always', when: null } } } } as unknown as Form; // prettier-ignore
  expect(told(filled)).toEqual([]);
});

test('what is told to be out of reach is never offered, whatever is chosen above', () => {
  const names = (table: string): string[] => SEEDBANK.find((t) => t.key === table)!.data.map((r) => String(r.name));
  const ids = (table: string): number[] => SEEDBANK.find((t) => t.key === table)!.data.map((r) => r.id);
  const not = (table: string) => fc.subarray(names(table), { maxLength: 2 }).map((n) => n.map((x) => `choice.name <> "${x}"`));
  let out = 0;
  fc.assert(
    fc.property(not('families'), not('genera'), (family, genus) => {
      const form = formOf(family.join(' AND ') || null, { ...GENUS, where: [GENUS.where, ...genus].join(' AND ') }, SPECIES);
      const entry = openSettled(compileForm(form, SEEDBANK_TABLES));
      const offered = { genus: new Set<number>(), species: new Set<number>() };
      const note = (field: 'genus' | 'species'): void => entry.offer(field)?.rows?.forEach((r) => offered[field].add(r.id));
      for (const f of entry.offer('family')?.rows ?? []) {
        entry.apply([{ kind: 'set', field: 'family', value: f.id }]);
        note('genus');
        for (const g of entry.offer('genus')?.rows ?? []) {
          entry.apply([{ kind: 'set', field: 'genus', value: g.id }]);
          note('species');
        }
      }
      const problems = unreachedIn(entry);
      for (const field of ['genus', 'species'] as const) {
        const table = field === 'genus' ? 'genera' : 'species';
        const count = Number(/^(\d+) of/.exec(problems.find((p) => p.field === field)?.message ?? '')?.[1] ?? 0);
        const unreached = ids(table).filter((id) => !offered[field].has(id)).length;
        const onPurpose = field === 'genus' ? genus.length : 1;
        expect(unreached).toBeGreaterThanOrEqual(count);
        // nothing else leaves any out here, so all of it is told
        expect(count).toBe(unreached - onPurpose);
        out += count;
      }
    }),
    { numRuns: 60 },
  );
  expect(out).toBeGreaterThan(30);
});

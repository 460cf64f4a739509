import fc from 'fast-check';
import type { Over } from '../engine/backfill.ts';
import { compileForm } from '../engine/compile.ts';
import type { StoredRecord } from '../engine/context.ts';
import type { Plan } from '../engine/plan.ts';
import { parseForm } from '../form/schemas.ts';
import type { Tables } from '../model/tables.ts';
import type { Datum } from '../values/types.ts';
import { type Generated, generated } from './randomForms.ts';
import { SEEDBANK, SEEDBANK_TABLES, lotForm, table } from './seedbank.ts';

/*
 * Random forms with lines over tables, and records that somebody else's form may have left: choices that fit nothing, values that hidden
 * fields should not hold.
 */

const NUMBERS = Array.from({ length: 10 }, (_, i) => `n${i}`);
const columns = (keys: readonly string[]): Record<string, string> => Object.fromEntries(keys.map((k) => [k, 'number']));
const LOTS = SEEDBANK.find((t) => t.key === 'lots')!;
/** The seed bank, whose lots have columns for the fields of random forms. */
export const TABLES: Tables = new Map([
  ...SEEDBANK_TABLES,
  ['lots', { ...LOTS, columns: [...LOTS.columns, ...table('more', { ...columns([...NUMBERS, 'sum']), step: 'text' }).columns] }],
]);

export interface LinesCase {
  readonly fields: Record<string, object>;
  readonly more: object;
}
export interface Case {
  readonly one: Generated;
  readonly other: Generated;
  readonly lines: LinesCase;
  readonly otherLines: LinesCase;
  readonly changes: readonly number[];
  readonly takesRules: boolean;
  readonly takesLines: boolean;
  readonly always: readonly boolean[];
  readonly stored: readonly (number | null)[];
  readonly chosen: readonly (number | null)[];
  readonly rows: readonly { readonly packets: number | null; readonly grams: number | null; readonly total: number | null }[];
  readonly asked: readonly number[];
  readonly over: Over;
}
const some = fc.option(fc.integer({ min: -30, max: 30 }), { nil: null, freq: 4 });
const shown = fc.constantFrom(null, 'n0 > 0', 'packets > 2', 'n1 > n0');
const hiddenValue = fc.constantFrom('keep', 'clear');
const lines: fc.Arbitrary<LinesCase> = fc.record({
  fields: fc.record({
    packets: fc.record({ label: fc.constant('Packets'), type: fc.constant('number'), column: fc.constant('packets'), required: fc.constantFrom(null, 'n0 > 3') }),
    grams: fc.record({
      label: fc.constant('Grams'),
      type: fc.constant('number'),
      column: fc.constant('grams'),
      shown,
      hiddenValue,
      value: fc.constantFrom(null, { kind: 'calculation', formula: 'packets * n0' }, { kind: 'prefill', formula: 'packets + n1' }),
    }),
    total: fc.record({
      label: fc.constant('Total'),
      type: fc.constant('number'),
      column: fc.constant('total'),
      value: fc.constantFrom(null, { kind: 'calculation', formula: 'grams + SUM(packings.packets)', always: true }, { kind: 'calculation', formula: 'grams * 2' }),
      checks: fc.constantFrom([], [{ when: 'grams > 3', message: 'Many: {grams}' }], [{ when: 'n1 > 5', message: 'Some', severity: 'warning' }]),
    }),
  }),
  more: fc.record({ shown: fc.constantFrom(null, null, 'n0 > 1'), hiddenValue, required: fc.constantFrom(null, 'n1 > 0') }),
}); // prettier-ignore
export const cases: fc.Arbitrary<Case> = fc.record({
  one: generated,
  other: generated,
  lines,
  otherLines: lines,
  changes: fc.array(fc.nat(), { minLength: 1, maxLength: 2 }),
  takesRules: fc.boolean(),
  takesLines: fc.boolean(),
  always: fc.array(fc.boolean(), { minLength: 10, maxLength: 10 }),
  stored: fc.array(some, { minLength: 12, maxLength: 12 }),
  chosen: fc.tuple(fc.constantFrom(null, 1, 2, 3), fc.constantFrom(null, 11, 12, 21, 22, 31), fc.constantFrom(null, 101, 102, 103, 111, 201, 301)),
  rows: fc.array(fc.record({ packets: some, grams: some, total: some }), { maxLength: 3 }),
  asked: fc.array(fc.nat(), { minLength: 1, maxLength: 3 }),
  over: fc.constantFrom('empty', 'filled', 'all'),
}); // prettier-ignore

/** A form over the columns: every field but the first of the random ones is stored, and lines stand beside them. */
export function planOf({ fields, order, rules, steps, access }: Generated, lines: LinesCase, { always }: Case): Plan {
  const stored = Object.entries(fields).map(([key, f], i) => {
    const value = (f as { value?: { kind: string } | null }).value;
    const more = value?.kind === 'calculation' && always[i % always.length] ? { value: { ...value, always: true } } : {};
    return [key, { ...f, ...more, ...(key === 'n0' && always[0] ? {} : { column: key }) }] as const;
  });
  const sum = { label: 'Sum', type: 'number', column: 'sum', value: { kind: 'calculation', formula: 'SUM(packings.grams) + n0' } };
  const keys = Object.keys(lines.fields);
  const all = Object.fromEntries([...stored, ['sum', sum]]);
  const form = parseForm({
    ...lotForm(all),
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'All', fields: [...order, 'sum', 'packings'] }] }],
    lines: {
      packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', fields: lines.fields, columns: keys, ...lines.more },
    },
    rules,
    steps,
    access,
  });
  return compileForm(form, TABLES);
}
/** A record as a case has it stored. */
export function recordOf({ stored, chosen, rows }: Case): StoredRecord {
  const [family = null, genus = null, species = null] = chosen;
  const values: Record<string, Datum> = { id: 7, family, genus, species, step: 'a', sum: stored[11] ?? null };
  NUMBERS.forEach((key, i) => (values[key] = stored[i] ?? null));
  return { values, origins: {}, lines: { packings: rows.map((r, i) => ({ id: i + 1, values: { id: i + 1, lot: 7, place: i, species: null, ...r }, origins: undefined })) } };
} // prettier-ignore

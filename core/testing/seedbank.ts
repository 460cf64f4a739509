import { DataCache } from '../engine/cache.ts';
import type { EntryContext, StoredRecord } from '../engine/context.ts';
import { type Entry, openEntry } from '../engine/entry.ts';
import { compileForm } from '../engine/compile.ts';
import type { Plan } from '../engine/plan.ts';
import type { Answered, Want } from '../engine/wants.ts';
import { parseForm } from '../form/schemas.ts';
import { type Table, type Tables } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import type { Row } from '../values/types.ts';

/** A little seed bank for engine tests: families ‹ genera ‹ species, regions ‹ sites, people, lots. */
export function table(
  key: string,
  columns: Record<string, string>,
  rows: readonly Row[] = [],
  large = false,
): Table & { data: readonly Row[] } {
  return {
    key,
    label: key[0]?.toUpperCase() + key.slice(1),
    shown: 'name',
    rows: rows.length,
    large,
    data: rows,
    columns: Object.entries(columns).map(([k, spec]) => {
      const [type, target] = spec.split(':');
      return columnSchema.parse({ key: k, label: k, type, target: target ?? null });
    }),
  };
}

export const SEEDBANK = [
  table('families', { name: 'text' }, [
    { id: 1, name: 'Fagaceae' },
    { id: 2, name: 'Rosaceae' },
    { id: 3, name: 'Betulaceae' },
  ]),
  table('genera', { name: 'text', family: 'link:families' }, [
    { id: 11, name: 'Quercus', family: 1 },
    { id: 12, name: 'Fagus', family: 1 },
    { id: 21, name: 'Rosa', family: 2 },
    { id: 22, name: 'Prunus', family: 2 },
    { id: 31, name: 'Betula', family: 3 },
  ]),
  table('species', { name: 'text', genus: 'link:genera', active: 'yesno', storage_c: 'number', germination_days: 'number' }, [
    { id: 101, name: 'Quercus robur', genus: 11, active: true, storage_c: 2, germination_days: 28 },
    { id: 102, name: 'Quercus petraea', genus: 11, active: true, storage_c: 2, germination_days: 30 },
    { id: 103, name: 'Quercus antiqua', genus: 11, active: false, storage_c: 2, germination_days: 31 },
    { id: 111, name: 'Fagus sylvatica', genus: 12, active: true, storage_c: -5, germination_days: 60 },
    { id: 201, name: 'Rosa canina', genus: 21, active: true, storage_c: -20, germination_days: 90 },
    { id: 202, name: 'Rosa arvensis', genus: 21, active: true, storage_c: -20, germination_days: null },
    { id: 211, name: 'Prunus avium', genus: 22, active: true, storage_c: -20, germination_days: 45 },
    { id: 301, name: 'Betula pubescens', genus: 31, active: true, storage_c: -20, germination_days: 21 },
  ]),
  table('people', { name: 'text', email: 'text', team: 'text' }, [
    { id: 1, name: 'Ida Fenn', email: 'ida@marrowfen.example', team: 'Field' },
    { id: 2, name: 'Tom Reed', email: 'tom@marrowfen.example', team: 'Lab' },
  ]),
  table('lots', {
    family: 'link:families',
    genus: 'link:genera',
    species: 'link:species',
    quantity_g: 'number',
    tsw_g: 'number',
    seeds: 'number',
    storage_c: 'number',
    collected_on: 'date',
    collector: 'person',
    note: 'text',
    kind: 'choice',
  }),
  table('packings', { lot: 'link:lots', place: 'number', species: 'link:species', packets: 'number', grams: 'number', total: 'number' }),
];
export const SEEDBANK_TABLES: Tables = new Map(SEEDBANK.map((t) => [t.key, t]));

const rows = (tableKey: string, more: object): object => ({ kind: 'rows', table: tableKey, show: 'name', sort: ['name'], ...more });
export const LOT_FIELDS: Record<string, object> = {
  family: { label: 'Family', type: 'link', column: 'family', source: rows('families', {}) },
  genus: { label: 'Genus', type: 'link', column: 'genus', source: rows('genera', { where: 'choice.family = family', waiting: 'all' }) },
  species: {
    label: 'Species',
    type: 'link',
    column: 'species',
    required: 'TRUE',
    source: rows('species', { where: 'choice.genus = genus AND choice.active', waiting: 'all', single: 'take' }),
  },
  storage_c: { label: 'Storage °C', type: 'number', column: 'storage_c', value: { kind: 'prefill', formula: 'species.storage_c' } },
  quantity_g: { label: 'Quantity, g', type: 'number', column: 'quantity_g' },
  tsw_g: { label: 'Weight of 1000 seeds', type: 'number', column: 'tsw_g' },
  seeds: {
    label: 'Seeds, estimated',
    type: 'number',
    column: 'seeds',
    decimals: 0,
    value: { kind: 'calculation', formula: 'quantity_g / tsw_g * 1000' },
  },
  collected_on: {
    label: 'Collected on',
    type: 'date',
    column: 'collected_on',
    value: { kind: 'default', formula: 'TODAY()' },
    checks: [{ when: 'collected_on > TODAY()', message: 'A lot cannot be collected in the future.' }],
  },
  collector: {
    label: 'Collector',
    type: 'person',
    column: 'collector',
    source: rows('people', {}),
    value: { kind: 'default', formula: 'me' },
  },
};

/** A one-section form over `lots` with these fields, in this order. */
export function lotForm(fields: Record<string, object> = LOT_FIELDS, order: readonly string[] = Object.keys(fields)) {
  return parseForm({
    key: 'lot_intake',
    label: 'Lot intake',
    table: 'lots',
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'All', fields: order }] }],
    fields,
  });
}

/** The lot form with packings as lines; `lines` are the fields of the lines. */
export function packingForm(fields: Record<string, object>, lines: Record<string, object>, start = 1) {
  return parseForm({
    ...lotForm(fields),
    pages: [{ id: 'p1', label: '', sections: [{ id: 's1', label: 'All', fields: [...Object.keys(fields), 'packings'] }] }],
    lines: {
      packings: { label: 'Packings', table: 'packings', link: 'lot', order: 'place', start, fields: lines, columns: Object.keys(lines) },
    },
  });
}

export const CONTEXT: EntryContext = { mode: 'new', today: '2026-03-10', now: '2026-03-10T09:00:00', me: 1 };

/** Answers wants about whole tables and rows from the little seed bank. */
export function answer(wants: readonly Want[]): Answered[] {
  return wants.map((want): Answered => {
    if (want.kind === 'table') return { want, answer: { kind: 'table', rows: SEEDBANK.find((t) => t.key === want.table)?.data ?? [] } };
    if (want.kind === 'row')
      return { want, answer: { kind: 'row', row: SEEDBANK.find((t) => t.key === want.table)?.data.find((r) => r.id === want.id) ?? null } };
    return { want, answer: { kind: 'failed', reason: 'not answered in this test' } };
  });
}

/** The same tables, all too large to be sent whole. */
export const LARGE_TABLES: Tables = new Map(SEEDBANK.map((t) => [t.key, { ...t, large: true }]));

/** Opens an entry and answers its wants until none are left. */
export function openSettled(
  plan: Plan,
  context: Partial<EntryContext> = {},
  record: StoredRecord | null = null,
  cache = new DataCache(),
): Entry {
  const entry = openEntry(plan, { ...CONTEXT, ...context }, cache, record);
  settleAll(entry);
  return entry;
}
export function settleAll(entry: Entry): void {
  for (let i = 0; entry.wants.length; i++) {
    if (i > 20) throw new Error('the entry keeps wanting');
    entry.supply(answer(entry.wants));
  }
}
export const lotPlan = (fields?: Record<string, object>): Plan => compileForm(lotForm(fields), SEEDBANK_TABLES);

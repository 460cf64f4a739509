import { compileForm } from '../engine/compile.ts';
import { DataCache } from '../engine/cache.ts';
import { type Entry, openEntry } from '../engine/entry.ts';
import type { Plan } from '../engine/plan.ts';
import type { Answer, Want } from '../engine/wants.ts';
import { parseForm } from '../form/schemas.ts';
import { type Feeds } from '../model/feeds.ts';
import { feedSchema } from '../model/schemas.ts';
import { type Table } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import type { Datum, Row } from '../values/types.ts';

/*
 * The worked examples of the guide, on a form of their own that is really computed: a few invented rows, some fields one
 * can change, and each example as a field. No server is asked.
 */

export interface Example {
  readonly title: string;
  readonly formula: string;
  /** the example's field in the form of the guide */
  readonly key: string;
  readonly type: 'text' | 'longtext' | 'number' | 'date';
  /** a number of a series is given by defaults alone */
  readonly kind: 'default' | 'calculation';
}

const example = (title: string, type: Example['type'], formula: string, kind: Example['kind'] = 'calculation') => ({
  title,
  type,
  formula,
  kind,
});
export const EXAMPLES: readonly Example[] = [
  example('Ten working days from today', 'date', 'WORKDAY(TODAY(), 10, GATHER(holidays, TRUE).day)'),
  example(
    'A number of its own for each lot, anew each year',
    'text',
    '"MF-" & YEAR(TODAY()) & "-" & TEXT(NEXTNUMBER("lots " & YEAR(TODAY())), "0000")',
    'default',
  ),
  example('A fee by method, from a value map', 'number', 'VALUEMAP(fees, method)'),
  example('Running text with a date', 'longtext', 'TEMPLATE("{species.name} collected at {site.name} on {collected_on, date, long}")'),
  example('One or many', 'text', 'TEMPLATE("{bags, plural, one {# bag} other {# bags}}")'),
  example(
    'The newest released lot of a species',
    'text',
    'PICK(lots, choice.species = species AND choice.status = "released", -choice.collected_on).code',
  ),
  example('How many lots there are of it', 'number', 'COUNTA(GATHER(lots, choice.species = species))'),
  example('What I entered last for the same partner', 'text', 'last(partner).method'),
  example(
    'A discount for schools, on lines that are filled',
    'number',
    'SUM(packets.line_total) * (1 - IF(partner.kind = "school", 50, 0)%)',
  ),
  example('The weather of the site and day', 'number', 'FEED(weather, site: site.name, day: collected_on).mean_c'),
  example('Viability, empty until counted', 'number', 'germinated / count_sown * 100'),
  example('Age in whole months', 'number', 'DATEDIF(collected_on, TODAY(), "m")'),
].map((e, i) => ({ ...e, key: `example_${i + 1}` }));

/** The fields one can change, in the order they stand, with what they begin with. */
export const INPUTS: readonly { readonly key: string; readonly value: Datum }[] = [
  { key: 'species', value: 1 },
  { key: 'site', value: 1 },
  { key: 'collected_on', value: '2025-09-14' },
  { key: 'partner', value: 2 },
  { key: 'method', value: 'courier' },
  { key: 'bags', value: 3 },
  { key: 'germinated', value: 41 },
  { key: 'count_sown', value: 50 },
];

const ROWS: Readonly<Record<string, readonly Row[]>> = {
  people: [{ id: 1, name: 'Ida Fenn', email: 'ida@marrowfen.example' }],
  species: [
    { id: 1, name: 'Quercus robur' },
    { id: 2, name: 'Rosa canina' },
    { id: 3, name: 'Betula pubescens' },
  ],
  sites: [
    { id: 1, name: 'Adder Carr' },
    { id: 2, name: 'Bittern Reach' },
  ],
  partners: [
    { id: 1, name: 'Otterbourne Nursery', kind: 'nursery' },
    { id: 2, name: 'Fenside School', kind: 'school' },
  ],
  lots: [
    { id: 1, code: 'MF-2024-0007', species: 1, status: 'released', collected_on: '2024-10-02' },
    { id: 2, code: 'MF-2025-0011', species: 1, status: 'released', collected_on: '2025-09-28' },
    { id: 3, code: 'MF-2025-0019', species: 1, status: 'registered', collected_on: '2025-10-30' },
    { id: 4, code: 'MF-2025-0023', species: 2, status: 'released', collected_on: '2025-11-03' },
  ],
  holidays: [
    { id: 1, day: '2026-12-25' },
    { id: 2, day: '2027-01-01' },
  ],
  requests: [],
  request_lines: [],
};
const LAST: Readonly<Record<number, Row>> = { 1: { id: 1, partner: 1, method: 'collected' }, 2: { id: 2, partner: 2, method: 'post' } };

const table = (key: string, label: string, columns: Readonly<Record<string, string>>): Table => ({
  key,
  label,
  shown: Object.keys(columns)[0] ?? null,
  rows: ROWS[key]?.length ?? 0,
  large: false,
  columns: Object.entries(columns).map(([k, spec]) => {
    const [type, target] = spec.split(':');
    return columnSchema.parse({ key: k, label: k, type, target: target ?? null });
  }),
});
const TABLES = [
  table('people', 'People', { name: 'text', email: 'text' }),
  table('species', 'Species', { name: 'text' }),
  table('sites', 'Sites', { name: 'text' }),
  table('partners', 'Partners', { name: 'text', kind: 'text' }),
  table('lots', 'Lots', { code: 'text', species: 'link:species', status: 'text', collected_on: 'date' }),
  table('holidays', 'Holidays', { day: 'date' }),
  table('requests', 'Requests', { partner: 'link:partners', method: 'choice' }),
  table('request_lines', 'Packets', { request: 'link:requests', packets: 'number', price: 'number', line_total: 'number' }),
];
const FEEDS: Feeds = new Map([
  [
    'weather',
    feedSchema.parse({
      key: 'weather', label: 'Weather', url: '/weather',
      params: [{ key: 'site', label: 'Site' }, { key: 'day', label: 'Day', type: 'date' }],
      attributes: [{ key: 'mean_c', label: 'Mean, °C', type: 'number', path: 'mean_c' }],
    }),
  ],
]); // prettier-ignore

/** The form of the guide, compiled. */
export function examplePlan(): Plan {
  const rows = (label: string, of: string) => ({
    label,
    type: 'link',
    column: of === 'partners' ? 'partner' : null,
    source: { kind: 'rows', table: of, show: 'name' },
  });
  const number = (label: string) => ({ label, type: 'number' });
  const methods = ['courier', 'post', 'collected'].map((m) => ({ value: m, label: m[0]!.toUpperCase() + m.slice(1) }));
  const fields: Record<string, object> = {
    species: rows('Species', 'species'),
    site: rows('Site', 'sites'),
    collected_on: { label: 'Collected on', type: 'date' },
    partner: rows('Partner', 'partners'),
    method: { label: 'Method', type: 'choice', column: 'method', source: { kind: 'options', options: methods } },
    bags: number('Bags'),
    germinated: number('Germinated'),
    count_sown: number('Seeds sown'),
  };
  for (const { key, title, type, kind, formula } of EXAMPLES) fields[key] = { label: title, type, value: { kind, formula } };
  const line = (label: string, column: string, formula: string | null) => ({
    label,
    type: 'number',
    column,
    value: formula && { kind: 'calculation', formula },
  });
  const form = parseForm({
    key: 'guide',
    label: 'Guide',
    table: 'requests',
    fields,
    pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: [...Object.keys(fields), 'packets'] }] }],
    maps: { fees: { label: 'Fees', lines: [{ keys: ['courier'], value: 14 }, { keys: ['post', 'collected'], value: 3.5 }] } },
    lines: {
      packets: {
        label: 'Packets', table: 'request_lines', link: 'request', start: 2, columns: ['packets', 'price', 'line_total'],
        fields: { packets: line('Packets', 'packets', null), price: line('Price', 'price', null), line_total: line('Total', 'line_total', 'packets * price') },
      },
    },
  }); // prettier-ignore
  return compileForm(form, new Map(TABLES.map((t) => [t.key, t])), new Map(), FEEDS);
}

/** Opens the form of the guide with what its fields begin with: three packets at 2.40 and one at 1.80. */
export function openExamples(plan: Plan, today: string): Entry {
  const entry = openEntry(plan, { mode: 'new', today, now: `${today}T09:00:00`, me: 1 }, new DataCache());
  settleExamples(entry);
  const [first, second] = entry.lines('packets') as [number, number];
  entry.apply([
    ...INPUTS.map(({ key, value }) => ({ kind: 'set' as const, field: key, value })),
    { kind: 'set', field: 'packets.packets', line: first, value: 3 },
    { kind: 'set', field: 'packets.price', line: first, value: 2.4 },
    { kind: 'set', field: 'packets.packets', line: second, value: 1 },
    { kind: 'set', field: 'packets.price', line: second, value: 1.8 },
  ]);
  settleExamples(entry);
  return entry;
}

/** Answers what the entry wants from the invented rows, until it wants nothing more. */
export function settleExamples(entry: Entry): void {
  // each round answers all there is to ask
  for (let round = 0; entry.wants.length && round < 20; round++)
    entry.supply(entry.wants.map((want) => ({ want, answer: answered(want) })));
}

function answered(want: Want): Answer {
  switch (want.kind) {
    case 'table':
      return { kind: 'table', rows: ROWS[want.table] ?? [] };
    case 'series':
      return { kind: 'number', next: 401 };
    case 'last':
      return { kind: 'last', row: LAST[Number(want.value)] ?? null };
    case 'feed': {
      const warmth = String(want.params.site ?? '').length + Number(String(want.params.day ?? '').slice(5, 7));
      return { kind: 'items', items: [{ id: 1, value: 'fair', label: 'fair', mean_c: warmth / 2 }] };
    }
    default:
      return { kind: 'failed', reason: 'There is nothing more in the guide.' };
  }
}

import { performance } from 'node:perf_hooks';
import { compileForm } from '../../core/engine/compile.ts';
import { parseForm } from '../../core/form/schemas.ts';
import { proposalsOf } from '../../core/evidence/proposals.ts';
import { type SavedLine, howFillsWork } from '../../core/evidence/fills.ts';
import { togetherIn } from '../../core/evidence/together.ts';
import type { World } from '../../core/evidence/world.ts';
import { table } from '../../core/testing/seedbank.ts';
import type { Datum, Row } from '../../core/values/types.ts';

/*
 * Looking through 100,000 records of 30 columns, with figures as they occur: what the fills come to, and what is proposed. Beside it,
 * as a measure, going through the same values once and counting them by value.
 */
const RECORDS = Number(process.env.BENCH_RECORDS ?? 100_000);

function world(): { world: World; saves: SavedLine[] } {
  let state = 99;
  const random = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296;
  };
  const upTo = (most: number): number => Math.floor(random() * most);
  const columns: Record<string, string> = { region: 'link:regions', site: 'link:sites', altitude: 'number', area: 'number' };
  for (let i = 0; i < 8; i++) columns[`n${i}`] = 'number';
  for (let i = 0; i < 8; i++) columns[`c${i}`] = 'choice';
  for (let i = 0; i < 6; i++) columns[`t${i}`] = 'text';
  for (let i = 0; i < 4; i++) columns[`d${i}`] = 'date';
  const tables = new Map(
    [
      table('regions', { name: 'text', code: 'text', size: 'number' }),
      table('sites', { name: 'text', region: 'link:regions', altitude: 'number', owner: 'text' }),
      table('visits', columns),
    ].map((t) => [t.key, t]),
  );
  const options = ['a', 'b', 'c', 'd'].map((value) => ({ value, label: value }));
  const fields = Object.fromEntries(
    Object.entries(columns).map(([key, spec]) => {
      const [type = '', target] = spec.split(':');
      const source = target ? { kind: 'rows', table: target, show: 'name' } : type === 'choice' ? { kind: 'options', options } : null;
      return [
        key,
        { label: key, type, column: key, source, value: key === 'altitude' ? { kind: 'prefill', formula: 'site.altitude' } : null },
      ];
    }),
  );
  const form = parseForm({ key: 'visit', label: 'Visit', table: 'visits', pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: Object.keys(fields) }] }], fields }); // prettier-ignore
  const regions = new Map(Array.from({ length: 20 }, (_, i): [number, Row] => [i + 1, { id: i + 1, name: `Region ${i}`, code: `R${i}`, size: random() * 900 }])); // prettier-ignore
  const sites = new Map(Array.from({ length: 2000 }, (_, i): [number, Row] => [i + 1, { id: i + 1, name: `Site ${i}`, region: 1 + upTo(20), altitude: Number((random() * 900).toFixed(2)), owner: `owner ${upTo(90)}` }])); // prettier-ignore
  const values = new Map<string, Datum[]>(Object.keys(columns).map((c) => [c, []]));
  const saves: SavedLine[] = [];
  for (let i = 0; i < RECORDS; i++) {
    const site = sites.get(1 + upTo(2000))!;
    const row: Record<string, Datum> = { site: site.id, region: random() < 0.99 ? (site.region as number) : 1 + upTo(20), altitude: random() < 0.9 ? (site.altitude as number) : Number((random() * 900).toFixed(2)) }; // prettier-ignore
    for (let k = 0; k < 8; k++) row[`n${k}`] = Number((random() * 1000).toFixed(3));
    row.area = Number(((row.n0 as number) * (row.n1 as number)).toFixed(4));
    for (let k = 0; k < 8; k++) row[`c${k}`] = options[upTo(4)]!.value;
    for (let k = 0; k < 6; k++) row[`t${k}`] = random() < 0.6 ? `text ${upTo(5000)} of ${upTo(90)}` : null;
    const day = (n: number): string => new Date(Date.UTC(2024, 0, 1) + n * 86_400_000).toISOString().slice(0, 10);
    for (let k = 0; k < 4; k++) row[`d${k}`] = day(upTo(900));
    for (const [c, list] of values) list.push(row[c] ?? null);
    const isOver = row.altitude !== site.altitude;
    saves.push({ row: i + 1, isNew: true, at: `${day(Math.floor((i * 900) / RECORDS))}T10:00:00`, version: 1, values: row, origins: { site: 'chosen', altitude: isOver ? 'typed' : 'prefill' }, gave: isOver ? { altitude: site.altitude ?? null } : {} }); // prettier-ignore
  }
  const plan = compileForm(form, tables);
  return { saves, world: { plan, fields: plan.own, lines: [], makers: saves.map((_, i) => 1 + (i % 7)), ids: saves.map((s) => s.row), days: saves.map((s) => s.at.slice(0, 10)), columns: values, rows: new Map([['regions', regions], ['sites', sites]]), byForm: new Set() } }; // prettier-ignore
}

export default function run(): void {
  const before = process.memoryUsage().heapUsed;
  const made = world();
  const held = process.memoryUsage().heapUsed;
  const timed = (name: string, work: () => string): number => {
    const began = performance.now();
    const said = work();
    const spent = performance.now() - began;
    console.log(`  ${name.padEnd(52)} ${(spent / 1000).toFixed(2).padStart(6)} s   ${said}`);
    return spent;
  };
  console.log(`\n${RECORDS.toLocaleString('en')} records × 30 columns, one thread`);
  const plain = timed('every value counted once by value', () => {
    let distinct = 0;
    for (const list of made.world.columns.values()) {
      const counts = new Map<Datum, number>();
      for (const v of list) counts.set(v, (counts.get(v) ?? 0) + 1);
      distinct += counts.size;
    }
    return `${distinct.toLocaleString('en')} values`;
  });
  const attributes = ['region', 'site', ...Array.from({ length: 8 }, (_, i) => `c${i}`)].map((c) => ({ path: c, column: c, of: (v: Readonly<Record<string, Datum>>) => v[c] ?? null })); // prettier-ignore
  const fills = timed(
    'how well the fills work',
    () => `${howFillsWork(made.world.fields, made.saves, attributes, new Map()).fields.length} fields`,
  );
  const columns = [...made.world.columns.keys()].map((key) => made.world.plan.tables.get('visits')!.columns.find((c) => c.key === key)!);
  timed('columns that come together', () => `${togetherIn(columns, made.world.columns, made.world.ids).length} chains`);
  const overruled = made.saves.flatMap((s, at) =>
    s.gave?.altitude === undefined ? [] : [{ at, column: 'altitude', value: s.values.altitude ?? null }],
  );
  const proposals = timed('proposals', () => proposalsOf(made.world, overruled).map((p) => `${p.kind} ${p.field}`).join(', ')); // prettier-ignore
  console.log(`  ratios to the plain count: fills ${(fills / plain).toFixed(1)} ×, proposals ${(proposals / plain).toFixed(1)} ×; the records hold ${((held - before) / 1e6).toFixed(0)} MB, the work ${((process.memoryUsage().heapUsed - held) / 1e6).toFixed(0)} MB more`); // prettier-ignore
}

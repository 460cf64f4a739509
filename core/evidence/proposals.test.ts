import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileForm } from '../engine/compile.ts';
import { openEntry } from '../engine/entry.ts';
import { parseForm } from '../form/schemas.ts';
import { valueSchema } from '../form/fills/schemas.ts';
import type { Plan } from '../engine/plan.ts';
import { isDatum } from '../formula/errors.ts';
import { CONTEXT, settleAll, table } from '../testing/seedbank.ts';
import type { Datum, Row } from '../values/types.ts';
import { same } from '../values/types.ts';
import { type Proposal, proposalKey, withProposal } from './proposal.ts';
import { proposalsOf } from './proposals.ts';
import { type World, linesWorlds } from './world.ts';

/* Worlds made by chance: what was planted in them is found, what was not is not proposed, and what is proposed does what it says. */

const visit = { site: 'link:sites', region: 'link:regions', altitude: 'number', wide: 'number', long: 'number', area: 'number', kind: 'choice', note: 'text', seen: 'date', back: 'date', spare: 'text', helper: 'text', keeper: 'person:people', grade: 'text', total: 'number' }; // prettier-ignore
const TABLES = [
  table('regions', { name: 'text' }),
  table('sites', { name: 'text', region: 'link:regions', altitude: 'number', wet: 'yesno' }),
  table('visits', visit),
  table('people', { name: 'text' }),
  table('finds', { visit: 'link:visits', weight: 'number', left: 'number', lost: 'number' }),
];
const tables = new Map(TABLES.map((t) => [t.key, t]));
const choose = (target: string) => ({ kind: 'rows', table: target, show: 'name', fillUp: false, single: 'leave' });
const form = parseForm({
  key: 'visit', label: 'Visit', table: 'visits',
  pages: [{ id: 'p', label: '', sections: [{ id: 's', label: '', fields: ['region', 'site', 'altitude', 'wide', 'long', 'area', 'kind', 'note', 'seen', 'back', 'spare', 'helper', 'keeper', 'grade', 'total', 'finds'] }] }],
  fields: {
    region: { label: 'Region', type: 'link', column: 'region', source: choose('regions') },
    site: { label: 'Site', type: 'link', column: 'site', source: choose('sites') },
    altitude: { label: 'Altitude', type: 'number', column: 'altitude' },
    wide: { label: 'Width', type: 'number', column: 'wide' },
    long: { label: 'Length', type: 'number', column: 'long' },
    area: { label: 'Area', type: 'number', column: 'area' },
    kind: { label: 'Kind', type: 'choice', column: 'kind', source: { kind: 'options', options: ['a', 'b', 'c'].map((value) => ({ value, label: value })) } },
    note: { label: 'Note', type: 'text', column: 'note' },
    seen: { label: 'Seen', type: 'date', column: 'seen' },
    back: { label: 'Back', type: 'date', column: 'back' },
    spare: { label: 'Spare', type: 'text', column: 'spare' },
    helper: { label: 'Helper', type: 'text', column: 'helper' },
    keeper: { label: 'Keeper', type: 'person', column: 'keeper', source: choose('people') },
    grade: { label: 'Grade', type: 'text', column: 'grade' },
    total: { label: 'Total', type: 'number', column: 'total' },
  },
  lines: {
    finds: {
      label: 'Finds', table: 'finds', link: 'visit', columns: ['left', 'lost', 'weight'],
      fields: Object.fromEntries(['left', 'lost', 'weight'].map((key) => [key, { label: key, type: 'number', column: key }])),
    },
  },
}); // prettier-ignore
const plan = compileForm(form, tables);

/** The same world asked for another form. */
const withPlan = (world: World, to: Plan): World => ({ ...world, plan: to, fields: to.own });

const PLANTED = {
  prefill: 'prefill altitude site.altitude',
  narrowing: 'narrowing site choice.region = region',
  calculation: 'calculation area wide * long',
  default: 'default kind "a"',
  today: 'default seen TODAY()',
  show: 'show note kind = "b"',
  order: 'check seen seen > back',
  unused: 'unused spare ',
  carry: 'carry helper ',
  me: 'default keeper me',
  by: 'default grade SWITCH(kind, "a", "fine", "b", "coarse", "c", "fine")',
  sum: 'calculation total SUM(finds.weight)',
  inLines: 'calculation finds.weight left + lost',
} as const;
type Planted = keyof typeof PLANTED;
const KINDS = Object.keys(PLANTED) as Planted[];

function generator(seed: number): () => number {
  let state = (seed * 2654435761) >>> 0 || 1;
  return () => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state / 4294967296;
  };
}
const day = (n: number): string => new Date(Date.UTC(2026, 0, 1) + n * 86_400_000).toISOString().slice(0, 10);

/** A world in which some habits hold, each but for a few records in a hundred, and all else is chance. */
function worldOf(seed: number, planted: ReadonlySet<Planted>, n: number): World {
  const random = generator(seed);
  const upTo = (most: number): number => Math.floor(random() * most);
  const regions = new Map(Array.from({ length: 6 }, (_, i): [number, Row] => [i + 1, { id: i + 1, name: `Region ${i + 1}` }]));
  const sites = new Map(
    Array.from({ length: 40 }, (_, i): [number, Row] => [
      i + 1,
      { id: i + 1, name: `Site ${i + 1}`, region: 1 + upTo(6), altitude: upTo(900), wet: random() < 0.5 },
    ]),
  );
  const holds = (what: Planted): boolean => planted.has(what) && random() >= 0.02;
  const people = new Map(Array.from({ length: 4 }, (_, i): [number, Row] => [i + 1, { id: i + 1, name: `Person ${i + 1}` }]));
  const makers = Array.from({ length: n }, () => 1 + upTo(4));
  const helpers = new Map<number, string>();
  const finds: Record<'parent' | 'weight' | 'left' | 'lost', number>[] = [];
  const helperOf = (i: number): string => {
    const last = helpers.get(makers[i]!);
    const now = planted.has('carry') && last !== undefined && random() < 0.9 ? last : `helper ${upTo(12)}`;
    helpers.set(makers[i]!, now);
    return now;
  };
  const totalOf = (i: number): number => {
    let sum = 0;
    for (let j = 1 + upTo(4); j > 0; j--) {
      const [left, lost] = [upTo(900) / 10, upTo(900) / 10];
      const weight = holds('inLines') ? Number((left + lost).toFixed(1)) : upTo(1800) / 10;
      finds.push({ parent: i, weight, left, lost });
      sum += weight;
    }
    return holds('sum') ? Number(sum.toFixed(1)) : upTo(4000) / 10;
  };
  const records = Array.from({ length: n }, (_, i): Row & Record<string, Datum> => {
    const site = sites.get(1 + upTo(40))!;
    const [wide, long] = [1 + upTo(400) / 10, 1 + upTo(400) / 10];
    const kind = planted.has('default') ? (random() < 0.9 ? 'a' : ['b', 'c'][upTo(2)]!) : ['a', 'b', 'c'][upTo(3)]!;
    const saved = i % 300;
    const seen = planted.has('today') && random() < 0.9 ? saved : upTo(300);
    // another that comes after it, or has nothing to do with it
    const back = holds('order') || (planted.has('order') && random() < 0.5) ? seen + 1 + upTo(40) : upTo(300);
    return {
      id: i + 1,
      site: site.id,
      region: holds('narrowing') ? (site.region as number) : 1 + upTo(6),
      altitude: holds('prefill') ? (site.altitude as number) : upTo(900),
      wide,
      long,
      area: holds('calculation') ? Number((wide * long).toFixed(2)) : upTo(40_000) / 100,
      kind,
      note: planted.has('show') ? (kind === 'b' && random() < 0.8 ? `note ${upTo(50)}` : null) : random() < 0.5 ? `note ${upTo(50)}` : null,
      seen: day(seen),
      back: day(back),
      helper: helperOf(i),
      keeper: planted.has('me') && random() < 0.92 ? makers[i]! : 1 + upTo(4),
      grade: planted.has('by') && random() < 0.95 ? (kind === 'b' ? 'coarse' : 'fine') : ['fine', 'coarse', 'mixed'][upTo(3)]!,
      total: totalOf(i),
      spare: planted.has('unused') ? null : random() < 0.3 ? `spare ${upTo(30)}` : null,
    };
  });
  const lines: World['lines'] = plan.lines.map(({ key, first, count }) => ({
    key,
    fields: plan.fields.slice(first, first + count),
    parents: finds.map((f) => f.parent),
    columns: new Map((['weight', 'left', 'lost'] as const).map((c) => [c, finds.map((f) => f[c])])),
  }));
  const columns = new Map(tables.get('visits')!.columns.map((c) => [c.key, records.map((r) => r[c.key] ?? null)]));
  return { plan, fields: plan.own, lines, makers, ids: records.map((r) => r.id), days: records.map((_, i) => day(i % 300)), columns, rows: new Map([['regions', regions], ['sites', sites], ['people', people]]), byForm: new Set() }; // prettier-ignore
}

/** What a world proposes, of its records and of its lines. */
const foundIn = (world: World): Proposal[] => [...proposalsOf(world, []), ...linesWorlds(world).flatMap((w) => proposalsOf(w, []))];

describe('proposals', () => {
  test('over a hundred worlds: what was planted is found, and nothing else', () => {
    let all = 0;
    const missed: string[] = [];
    const others: string[] = [];
    for (let seed = 1; seed <= 100; seed++) {
      const random = generator(seed + 1000);
      const planted = new Set(KINDS.filter(() => random() < 0.5));
      const found = new Set(foundIn(worldOf(seed, planted, 400)).map(proposalKey));
      for (const kind of planted) {
        all++;
        const isFound = found.has(PLANTED[kind]) || (kind === 'by' && planted.has('default') && found.has('default grade "fine"'));
        if (!isFound) missed.push(kind);
      }
      const wanted = new Set<string>([...planted].map((k) => PLANTED[k]));
      // nine in ten are of one kind and so of one grade: then that is as good
      if (planted.has('default') && planted.has('by')) wanted.add('default grade "fine"');
      for (const key of found) if (!wanted.has(key)) others.push(key);
    }
    console.log(
      `proposals: ${all - missed.length} of ${all} planted found (not ${[...new Set(missed)].join()}), ${others.length} others in 100 worlds: ${[...new Set(others)].join('; ')}`,
    );
    expect(missed.length).toBeLessThanOrEqual(all * 0.05);
    expect(others.length).toBeLessThanOrEqual(5);
  });

  test('a world of chance, small or large, proposes nothing', () => {
    for (const n of [0, 1, 19, 60, 500, 3000])
      for (let seed = 1; seed <= 12; seed++)
        expect(foundIn(worldOf(seed * 31 + n, new Set(), n)).map(proposalKey), `${n} records, seed ${seed}`).toEqual([]);
  });

  test('taken in, a proposal gives what it claimed, in as many records, and is not proposed again', () => {
    const world = worldOf(5, new Set(KINDS), 200);
    const answers = new Map([...world.rows].map(([key, rows]) => [key, [...rows.values()]]));
    expect(plan.problems.filter((p) => p.severity === 'error')).toEqual([]);
    for (const proposal of proposalsOf(world, [])) {
      const taken = compileForm(withProposal(form, proposal), tables);
      expect(taken.problems.filter((p) => p.severity === 'error'), proposalKey(proposal)).toEqual([]); // prettier-ignore
      const again = proposalsOf({ ...withPlan(world, taken), columns: proposal.kind === 'unused' ? without(world.columns, 'spare') : world.columns }, []); // prettier-ignore
      expect(again.map(proposalKey)).not.toContain(proposalKey(proposal));
      if (proposal.kind !== 'prefill' && proposal.kind !== 'calculation') continue;
      let fits = 0;
      const column = taken.own.find((f) => f.key === proposal.field)!.definition.column!;
      world.ids.forEach((id, i) => {
        const values = Object.fromEntries([...world.columns].map(([c, v]) => [c, v[i] ?? null]));
        const entry = openEntry(taken, { ...CONTEXT, mode: 'edit' }, undefined, {
          values: { id, ...values },
          origins: {},
          lines: { finds: findsOf(world, i).map((found) => ({ ...found, origins: undefined })) },
        });
        for (let turn = 0; turn < 10 && entry.wants.length; turn++)
          entry.supply(entry.wants.map((want) => ({ want, answer: { kind: 'table' as const, rows: want.kind === 'table' ? (answers.get(want.table) ?? []) : [] } }))); // prettier-ignore
        settleAll(entry);
        const given = entry.give(proposal.field) ?? null;
        const stored = world.columns.get(column)![i] ?? null;
        if (isDatum(given) && (same(given, stored) || (typeof given === 'number' && Math.abs(given - Number(stored)) <= 0.005000001)))
          fits++;
      });
      expect(fits, proposalKey(proposal)).toBe(proposal.fits);
    }
  });

  test('what is calculated already is not proposed the other way round, nor scaled', () => {
    const value = valueSchema.parse({ kind: 'calculation', formula: 'wide * long' });
    const done = compileForm({ ...form, fields: { ...form.fields, area: { ...form.fields.area!, value } } }, tables);
    expect(proposalsOf(withPlan(worldOf(11, new Set(['calculation']), 300), done), []).map(proposalKey)).toEqual([]);
    const [base, scaled] = [worldOf(12, new Set(['calculation']), 300), new Map<string, readonly Datum[]>()];
    for (const [c, v] of base.columns) scaled.set(c, c === 'area' ? v.map((x) => Number(x) * 1000) : v);
    expect(proposalsOf({ ...base, columns: scaled }, []).map(proposalKey)).toEqual(['calculation area wide * long * 1000']);
  });

  test('exceptions are records it does not fit, and those that fit are none', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 100_000 }), fc.subarray(KINDS), (seed, planted) => {
        const world = worldOf(seed, new Set(planted), 120);
        for (const p of proposalsOf(world, [])) {
          expect(p.exceptions.length).toBe(Math.min(30, p.of - p.fits));
          expect(p.fits).toBeLessThanOrEqual(p.of);
          expect(p.of).toBeLessThanOrEqual(120);
        }
      }),
      { numRuns: 40 },
    );
  });

  test('what is put over a fill under one condition is proposed to be given there first', () => {
    const filled = compileForm({ ...form, fields: { ...form.fields, altitude: { ...form.fields.altitude!, value: valueSchema.parse({ kind: 'prefill', formula: 'site.altitude' }) } } }, tables); // prettier-ignore
    const base = worldOf(7, new Set(['prefill', 'narrowing']), 400);
    const region = base.columns.get('region')!;
    const altitude = base.columns.get('altitude')!.map((v, i) => (region[i] === 3 && i % 9 ? 4 : v));
    const overruled = base.ids.flatMap((_, at) => (region[at] === 3 && at % 9 ? [{ at, column: 'altitude', value: 4 }] : []));
    const world = { ...withPlan(base, filled), columns: new Map([...base.columns, ['altitude', altitude]]) };
    const found = proposalsOf(world, overruled).find((p): p is Proposal => p.kind === 'otherwise');
    expect(found).toMatchObject({ field: 'altitude', formula: 'IF(region.name = "Region 3", 4, site.altitude)' });
    expect(found!.fits).toBeGreaterThan(found!.today!);
    expect(withProposal(filled.form, found!).fields.altitude!.value).toMatchObject({ kind: 'prefill', formula: found!.formula });
  });
});
/** The lines of a record, as it is stored. */
function findsOf({ lines: [finds] }: World, at: number): { id: number; values: Row }[] {
  return finds!.parents.flatMap((p, j) =>
    p === at ? [{ id: j + 1, values: { id: j + 1, ...Object.fromEntries([...finds!.columns].map(([c, v]) => [c, v[j] ?? null])) } }] : [],
  );
}
function without<V>(map: ReadonlyMap<string, V>, key: string): ReadonlyMap<string, V> {
  return new Map([...map].filter(([k]) => k !== key));
}

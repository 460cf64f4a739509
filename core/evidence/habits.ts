import type { PlanField } from '../engine/plan.ts';
import { quoted } from '../form/who.ts';
import { isSeveral, linkTarget } from '../model/tables.ts';
import { PEOPLE } from '../values/kinds/index.ts';
import { compareText } from '../values/text.ts';
import { type Datum, same } from '../values/types.ts';
import type { Proposal } from './proposal.ts';
import { whereMost } from './where.ts';
import { type World, agreement, exceptionsOf, fieldsOf, isFilledByForm, isLink, nameOf, valuesOf } from './world.ts';

/* What is mostly entered: the same value, or the day of entry (default); under one condition something else than the fill gives. */
const LEAST = { share: 0.8, records: 20 } as const;

/** A value as a formula writes it; null where none can. */
export function literal(field: PlanField, value: Datum): string | null {
  if (typeof value === 'number') return field.choices?.stores === 'row' ? null : String(value);
  if (typeof value === 'boolean') return value ? 'TRUE' : 'FALSE';
  if (typeof value !== 'string' || value.length > 200) return null;
  return field.definition.type === 'date' ? `DATE(${value.split('-').map(Number).join(', ')})` : ['datetime', 'time'].includes(field.definition.type) ? null : quoted(value); // prettier-ignore
}

/** Fields without a fill in which most records hold one value, or the day on which they were saved. */
export function defaults(world: World): Proposal[] {
  return fieldsOf(world).flatMap((field): Proposal[] => {
    if (field.value || isLink(field) || isFilledByForm(world, field)) return [];
    const values = valuesOf(world, field);
    const counts = new Map<Datum, number>();
    let [of, today] = [0, 0];
    values.forEach((v, i) => {
      if (v === null || typeof v === 'object') return;
      of++;
      counts.set(v, (counts.get(v) ?? 0) + 1);
      if (v === world.days[i]) today++;
    });
    // what is left empty as often is not mostly entered
    if (of < LEAST.records || of < world.ids.length * LEAST.share) return [];
    const [value, fits] = [...counts].sort((a, b) => b[1] - a[1])[0]!;
    const isDay = field.definition.type === 'date' && today >= fits;
    const formula = isDay ? 'TODAY()' : literal(field, value);
    const most = isDay ? today : fits;
    if (formula === null || most < of * LEAST.share) return [];
    const holds = (i: number): boolean | null => ((values[i] ?? null) === null ? null : values[i] === (isDay ? world.days[i] : value));
    return [{ kind: 'default', field: field.key, formula, message: null, fits: most, of, today: null, exceptions: exceptionsOf(world, holds) }]; // prettier-ignore
  });
}

/** Fields without a fill that mostly hold the person who enters. */
export function ownDefaults(world: World): Proposal[] {
  return fieldsOf(world).flatMap((field): Proposal[] => {
    if (field.value || isFilledByForm(world, field) || !isLink(field) || !field.column || linkTarget(field.column) !== PEOPLE) return [];
    const values = valuesOf(world, field);
    const found = agreement(values, world.makers, LEAST.share);
    if (!found || found.of < LEAST.records || found.fits < found.of * LEAST.share || found.distinct < 2) return [];
    if (found.of < world.ids.length * 0.5) return [];
    const holds = (i: number): boolean | null => isSame(values[i], world.makers[i]);
    return [{ kind: 'default', field: field.key, formula: 'me', message: null, fits: found.fits, of: found.of, today: null, exceptions: exceptionsOf(world, holds) }]; // prettier-ignore
  });
}
const isSame = (a: Datum | undefined, b: Datum | undefined): boolean | null =>
  a === null || a === undefined || b === null || b === undefined ? null : same(a, b);

/** Fields without a fill that mostly hold what the record before held that the same person entered: they may be carried over. */
export function carries(world: World): Proposal[] {
  // lines are not carried over
  if (world.fields.some((f) => f.group !== null)) return [];
  const before = new Map<number, number>();
  const previous = world.makers.map((maker, i) => {
    if (maker === null) return null;
    const at = before.get(maker) ?? null;
    before.set(maker, i);
    return at;
  });
  return fieldsOf(world).flatMap((field): Proposal[] => {
    if (field.value || field.definition.carry || isFilledByForm(world, field)) return [];
    const values = valuesOf(world, field);
    const last = previous.map((at) => (at === null ? null : (values[at] ?? null)));
    const found = agreement(values, last, LEAST.share);
    if (!found || found.of < LEAST.records || found.fits < found.of * LEAST.share || found.kappa < 0.6 || found.distinct < 3) return [];
    const holds = (i: number): boolean | null => isSame(values[i], last[i]);
    return [{ kind: 'carry', field: field.key, formula: '', message: null, fits: found.fits, of: found.of, today: null, exceptions: exceptionsOf(world, holds) }]; // prettier-ignore
  });
}

/** The most values of a parent for each of which a default is written out. */
const MOST_PARENTS = 12;
const PARENT = { each: 5, share: 0.9, better: 0.6 } as const;
/** Fields without a fill that mostly hold one value for each value of a choice, and not the same for all: a default by that choice. */
export function defaultsBy(world: World): Proposal[] {
  const parents = fieldsOf(world).filter((f) => f.choices !== null && !isLink(f) && !isSeveral(f.definition.type));
  return fieldsOf(world).flatMap((field): Proposal[] => {
    if (field.value || isLink(field) || isFilledByForm(world, field)) return [];
    const values = valuesOf(world, field);
    let best: Proposal | null = null;
    for (const parent of parents) {
      if (parent === field) continue;
      const found = defaultBy(world, values, valuesOf(world, parent));
      if (!found || found.fits <= (best?.fits ?? 0)) continue;
      const pairs = found.pairs.map(([given, value]) => [literal(parent, given), literal(field, value)]);
      if (pairs.some((p) => p.includes(null))) continue;
      const formula = `SWITCH(${nameOf(parent)}, ${pairs.map((p) => p.join(', ')).join(', ')})`;
      best = { kind: 'default', field: field.key, formula, message: null, fits: found.fits, of: found.of, today: null, exceptions: exceptionsOf(world, found.holds) }; // prettier-ignore
    }
    return best ? [best] : [];
  });
}
interface DefaultBy {
  readonly pairs: readonly (readonly [given: Datum, value: Datum])[];
  readonly fits: number;
  readonly of: number;
  readonly holds: (i: number) => boolean | null;
}
/** A look at so many rows first: a parent that does not decide them is put aside, with a margin of ten in a hundred. */
const SAMPLE = 1000;
function defaultBy(world: World, values: readonly Datum[], given: readonly Datum[]): DefaultBy | null {
  const stride = Math.floor(values.length / SAMPLE);
  if (stride > 1) {
    const some = talliesBy(values, given, stride);
    if (!some || some.of < (world.ids.length / stride) * (LEAST.share - 0.1)) return null;
    for (const { all, most } of some.tallies) if (all >= 30 && most < all * (LEAST.share - 0.1)) return null;
  }
  const told = talliesBy(values, given, 1);
  if (!told || told.of < LEAST.records || told.of < world.ids.length * LEAST.share || told.tallies.length < 2) return null;
  const { of, alone } = told;
  const pairs: (readonly [Datum, Datum])[] = [];
  let fits = 0;
  for (const { given: p, value, all, most } of told.tallies) {
    if (all < PARENT.each) continue;
    // where one value of the parent says nothing, the parent does not decide it
    if (most < all * LEAST.share) return null;
    pairs.push([p, value]);
    fits += most;
  }
  const isBetter = of - fits <= (of - alone) * (1 - PARENT.better);
  if (fits < of * PARENT.share || !isBetter || new Set(pairs.map(([, v]) => v)).size < 2) return null;
  const said = new Map(pairs);
  pairs.sort(([a], [b]) => compareText(String(a), String(b)));
  const holds = (i: number): boolean | null => {
    const [v, p] = [values[i] ?? null, given[i] ?? null];
    return v === null || p === null ? null : said.get(p) === v;
  };
  return { pairs, fits, of, holds };
}
interface TallyBy {
  readonly given: Datum;
  /** the commonest value with it */
  readonly value: Datum;
  readonly all: number;
  readonly most: number;
}
/** The commonest value of a field for each value of another, every so many rows; null where there are too many. */
function talliesBy(
  values: readonly Datum[],
  given: readonly Datum[],
  stride: number,
): { tallies: TallyBy[]; of: number; alone: number } | null {
  const counts = new Map<Datum, Map<Datum, number>>();
  let of = 0;
  for (let i = 0; i < values.length; i += stride) {
    const [v, p] = [values[i] ?? null, given[i] ?? null];
    if (v === null || p === null || typeof v === 'object' || typeof p === 'object') continue;
    of++;
    let own = counts.get(p);
    if (!own) counts.set(p, (own = new Map<Datum, number>()));
    if (counts.size > MOST_PARENTS) return null;
    own.set(v, (own.get(v) ?? 0) + 1);
  }
  const whole = new Map<Datum, number>();
  const tallies = [...counts].map(([p, own]): TallyBy => {
    let [value, most, all]: [Datum, number, number] = [null, 0, 0];
    for (const [v, n] of own) {
      all += n;
      whole.set(v, (whole.get(v) ?? 0) + n);
      if (n > most) [value, most] = [v, n];
    }
    return { given: p, value, all, most };
  });
  return { tallies, of, alone: Math.max(0, ...whole.values()) };
}

/** What a fill gave for a record at its first save, where a person put something else over it. */
export interface Overruled {
  /** the place of the record in the world */
  readonly at: number;
  readonly column: string;
  readonly value: Datum;
}
/**
 * Fills that are mostly put over under one condition, with one value: the formula may say so first. `fits` counts the records in which
 * the new formula gives what was saved, `today` those in which the fill as it is did.
 */
export function otherwise(world: World, overruled: readonly Overruled[]): Proposal[] {
  const lines = world.ids.map((_, i) => ({ at: i, values: Object.fromEntries([...world.columns].map(([c, v]) => [c, v[i] ?? null])) as Record<string, Datum> })); // prettier-ignore
  const attributes = fieldsOf(world).flatMap((f) => {
    if (!f.choices && f.definition.type !== 'yesno') return [];
    return [{ path: f.key, column: f.definition.column!, of: (v: Readonly<Record<string, Datum>>) => v[f.definition.column!] ?? null }];
  });
  return fieldsOf(world).flatMap((field): Proposal[] => {
    const column = field.definition.column!;
    if (!field.value || field.value.kind === 'calculation') return [];
    const over = new Map(overruled.filter((o) => o.column === column).map((o) => [o.at, o.value]));
    const values = [...over].map(([, v]) => v);
    const most = values.find((v) => values.filter((w) => same(v, w)).length * 2 > values.length);
    const text = most === undefined ? null : literal(field, most);
    if (text === null || most === undefined) return [];
    const where = whereMost(lines, new Set(lines.filter((l) => over.has(l.at) && same(over.get(l.at)!, most))), attributes.filter((a) => a.column !== column)); // prettier-ignore
    const condition = where && conditionOf(world, where.path, where.value);
    if (!where || condition === null) return [];
    const through = world.fields.find((f) => f.key === where.path)!;
    const isThere = (i: number): boolean => same(valuesOf(world, through)[i] ?? null, where.value);
    // where nothing was put over it, the fill gave what stands there
    const fitsToday = (i: number): boolean => !over.has(i);
    const holds = (i: number): boolean => (isThere(i) ? same(valuesOf(world, field)[i] ?? null, most) : fitsToday(i));
    const count = (test: (i: number) => boolean): number => world.ids.filter((_, i) => test(i)).length;
    const [fits, today] = [count(holds), count(fitsToday)];
    if (fits <= today) return [];
    return [{ kind: 'otherwise', field: field.key, formula: `IF(${condition}, ${text}, ${field.value.formula.text})`, message: null, fits, of: world.ids.length, today, exceptions: exceptionsOf(world, holds) }]; // prettier-ignore
  });
}
/** A condition on a field as a formula: of a link by what its row is shown by. */
function conditionOf(world: World, key: string, value: Datum): string | null {
  const field = world.fields.find((f) => f.key === key);
  if (!field) return null;
  const target = field.column ? linkTarget(field.column) : null;
  if (target === null) {
    const text = literal(field, value);
    return text === null ? null : `${nameOf(field)} = ${text}`;
  }
  const shown = world.plan.tables.get(target)?.shown;
  const name = shown ? world.rows.get(target)?.get(Number(value))?.[shown] : null;
  return typeof name === 'string' ? `${nameOf(field)}.${shown} = ${quoted(name)}` : null;
}

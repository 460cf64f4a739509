import type { PlanField } from '../engine/plan.ts';
import { type Formula, slotsRead } from '../formula/formula.ts';
import { decimalsOf } from '../values/decimal.ts';
import type { Datum } from '../values/types.ts';
import type { Proposal } from './proposal.ts';
import { type World, exceptionsOf, fieldsOf, nameOf, valuesOf } from './world.ts';

/* Numbers and days: what is the product, sum, difference or quotient of two others; which orders and bounds hold in nearly all records. */
const LEAST = { share: 0.95, records: 20, distinct: 5 } as const;
const SAMPLE = 120;

interface Numbers {
  readonly field: PlanField;
  readonly values: readonly (number | null)[];
  /** different values among the first of them */
  readonly distinct: number;
}
const numbersOf = (world: World): Numbers[] =>
  fieldsOf(world)
    .filter((f) => f.definition.type === 'number' && !f.choices)
    .map((field) => {
      const values = valuesOf(world, field).map((v) => (typeof v === 'number' ? v : null));
      return { field, values, distinct: new Set(values.slice(0, 5000)).size };
    });

const WAYS = [
  { sign: '*', of: (a: number, b: number) => a * b, both: true, scales: true },
  { sign: '+', of: (a: number, b: number) => a + b, both: true, scales: false },
  { sign: '-', of: (a: number, b: number) => a - b, both: false, scales: false },
  { sign: '/', of: (a: number, b: number) => (b === 0 ? null : a / b), both: false, scales: true },
] as const;

/** Places behind the point that the values of a field have, six at most. */
function placesOf(values: readonly (number | null)[]): number {
  let most = 0;
  for (const v of values) if (v !== null && most < 6) most = Math.max(most, Math.min(6, decimalsOf(v)));
  return most;
}
/** Whether a formula that was compiled reads a field. */
const reads = (formula: Formula | null | undefined, field: PlanField): boolean =>
  Boolean(formula?.syntax && slotsRead(formula.syntax, formula).includes(field.slot));
/** Whether a field is calculated from another. */
const comesOf = (field: PlanField, from: PlanField): boolean => field.value?.kind === 'calculation' && reads(field.value.formula, from);

/**
 * Numbers that are, within their own rounding, what two others give. What is said of three numbers is said once: of the one that fits
 * most records, else of the one that stands last, as a product or a sum rather than a quotient.
 */
export function calculations(world: World): Proposal[] {
  const all = numbersOf(world);
  const best = new Map<string, { readonly proposal: Proposal; readonly order: number; readonly slot: number }>();
  for (const { field, values, distinct } of all) {
    if (field.value?.kind === 'calculation' || distinct < LEAST.distinct) continue;
    const close = 0.5 * 10 ** -placesOf(values) * 1.000001;
    for (const a of all) {
      for (const b of all) {
        if (a.field === field || b.field === field || a.field === b.field || a.distinct < 3 || b.distinct < 3) continue;
        // the same, the other way round
        if (comesOf(a.field, field) || comesOf(b.field, field)) continue;
        for (const [order, way] of WAYS.entries()) {
          if (way.both && a.field.slot > b.field.slot) continue;
          const factor = way.scales ? factorOf(values, (i) => given(way, a.values[i], b.values[i])) : 1;
          const holds = (i: number): boolean | null => {
            const [z, unscaled] = [values[i] ?? null, given(way, a.values[i], b.values[i])];
            if (z === null || unscaled === null) return null;
            const scaled = unscaled * factor;
            return Math.abs(scaled - z) <= close + 1e-9 * Math.abs(scaled);
          };
          const counted = countWhere(values.length, holds);
          if (!counted) continue;
          const three = [field.slot, a.field.slot, b.field.slot].sort((p, q) => p - q).join();
          const known = best.get(three);
          // of those that fit as well, give or take a few by chance: the one that stands last is what comes of the others
          const more = known && Math.round((100 * (counted.fits - known.proposal.fits)) / counted.of);
          if (known && !isBefore([more!, field.slot, -order], [0, known.slot, -known.order])) continue;
          best.set(three, { order, slot: field.slot, proposal: { kind: 'calculation', field: field.key, formula: `${nameOf(a.field)} ${way.sign} ${nameOf(b.field)}${factor === 1 ? '' : factor > 1 ? ` * ${factor}` : ` / ${Math.round(1 / factor)}`}`, message: null, ...counted, today: null, exceptions: exceptionsOf(world, holds) } }); // prettier-ignore
        }
      }
    }
  }
  // one formula a field
  const byField = new Map<string, Proposal>();
  for (const found of best.values())
    if ((byField.get(found.proposal.field)?.fits ?? 0) < found.proposal.fits) byField.set(found.proposal.field, found.proposal);
  return [...byField.values()];
}
/** Numbers that are, within their own rounding, the sum of a column over the lines of their record, or how many lines there are. */
export function lineSums(world: World): Proposal[] {
  const all = numbersOf(world).filter(({ field, distinct }) => field.value?.kind !== 'calculation' && distinct >= 3);
  const sums = world.lines.flatMap(({ key, fields, parents, columns }) =>
    fields.flatMap((f): { formula: string; sums: readonly (number | null)[] }[] => {
      const values = columns.get(f.definition.column ?? '');
      if (!values) return [];
      const [sum, count] = [new Array<number | null>(world.ids.length).fill(null), new Array<number | null>(world.ids.length).fill(null)];
      for (const [j, at] of parents.entries()) {
        const v = values[j] ?? null;
        if (v !== null) count[at] = (count[at] ?? 0) + 1;
        if (typeof v === 'number') sum[at] = (sum[at] ?? 0) + v;
      }
      const isNumber = f.definition.type === 'number' && !f.choices;
      const name = `${key}.${nameOf(f)}`;
      // how many there are is told by what stands in every line
      const isWhole = values.every((v) => v !== null);
      return [
        ...(isNumber ? [{ formula: `SUM(${name})`, sums: sum }] : []),
        ...(isWhole ? [{ formula: `COUNTA(${name})`, sums: count }] : []),
      ];
    }),
  );
  return all.flatMap(({ field, values }): Proposal[] => {
    const close = 0.5 * 10 ** -placesOf(values) * 1.000001;
    let best: Proposal | null = null;
    for (const { formula, sums: given } of sums) {
      const holds = (i: number): boolean | null => {
        const [z, x] = [values[i] ?? null, given[i] ?? null];
        return z === null || x === null ? null : Math.abs(z - x) <= close + 1e-9 * Math.abs(x);
      };
      // what is the same in all says nothing
      if (new Set(given.filter((x) => x !== null).slice(0, 500)).size < 3) continue;
      const counted = countWhere(values.length, holds);
      if (counted && counted.fits > (best?.fits ?? 0))
        best = { kind: 'calculation', field: field.key, formula, message: null, ...counted, today: null, exceptions: exceptionsOf(world, holds) }; // prettier-ignore
    }
    return best ? [best] : [];
  });
}
const given = (way: (typeof WAYS)[number], x: number | null | undefined, y: number | null | undefined): number | null =>
  x === null || x === undefined || y === null || y === undefined ? null : way.of(x, y);
/** The power of ten between what is given and what is stored, from a thousandth to a thousand, as most of the first few have it; else 1. */
function factorOf(values: readonly (number | null)[], give: (i: number) => number | null): number {
  const counts = new Map<number, number>();
  let asked = 0;
  for (let i = 0; i < values.length && asked < 9; i++) {
    const [z, x] = [values[i] ?? null, give(i)];
    if (z === null || x === null || z === 0 || x === 0) continue;
    asked++;
    const power = Math.round(Math.log10(Math.abs(z / x)));
    counts.set(power, (counts.get(power) ?? 0) + 1);
  }
  const [most] = [...counts].sort((a, b) => b[1] - a[1]);
  return most && Math.abs(most[0]) <= 3 ? 10 ** most[0] : 1;
}

/** Whether the first of the numbers that differ is greater. */
function isBefore(a: readonly number[], b: readonly number[]): boolean {
  const at = a.findIndex((n, i) => n !== b[i]);
  return at >= 0 && a[at]! > b[at]!;
}

/** How often something holds of those it can be asked of; null where that is too seldom, or of too few. A sample is asked first. */
function countWhere(n: number, holds: (i: number) => boolean | null): { fits: number; of: number } | null {
  const stride = Math.max(1, Math.floor(n / SAMPLE));
  const ask = (step: number): { fits: number; of: number } => {
    let [fits, of] = [0, 0];
    for (let i = 0; i < n; i += step) {
      const said = holds(i);
      if (said === null) continue;
      of++;
      if (said) fits++;
    }
    return { fits, of };
  };
  if (stride > 1) {
    const sample = ask(stride);
    if (sample.of >= 20 && sample.fits < sample.of * (LEAST.share - 0.15)) return null;
  }
  const whole = ask(1);
  return whole.of >= LEAST.records && whole.fits >= whole.of * LEAST.share ? whole : null;
}

/** An order is worth a check where any two records put together would break it this often. */
const LEAST_BROKEN_BY_CHANCE = 0.15;
/** and be broken by so much fewer records than by chance. */
const MOST_OF_CHANCE = 0.1;
const ORDER_SHARE = 0.98;
/** Pairs of fields of which the first is never more than the second, with few exceptions: likely mistakes. */
export function orders(world: World, calculated: readonly Proposal[] = []): Proposal[] {
  /** what comes of the other keeps an order by itself */
  const comes = (f: PlanField, from: PlanField): boolean =>
    calculated.some((p) => p.field === f.key && new RegExp(`\\b${nameOf(from)}\\b`).test(p.formula));
  const fields = fieldsOf(world).filter((f) => !f.choices && f.value?.kind !== 'calculation' && ['number', 'date', 'datetime'].includes(f.definition.type)); // prettier-ignore
  const found: Proposal[] = [];
  for (const a of fields) {
    for (const b of fields) {
      if (a === b || a.definition.type !== b.definition.type) continue;
      if (checksSay(a, b) || checksSay(b, a) || comes(a, b) || comes(b, a)) continue;
      const [x, y] = [valuesOf(world, a), valuesOf(world, b)];
      const holds = (i: number): boolean | null => (isNone(x[i]) || isNone(y[i]) ? null : (x[i] as number) <= (y[i] as number));
      let [of, fits, equal, broken, asked] = [0, 0, 0, 0, 0];
      for (let i = 0; i < x.length; i++) {
        const said = holds(i);
        if (said === null) continue;
        of++;
        if (said) fits++;
        if (x[i] === y[i]) equal++;
        // one from anywhere: neighbours were saved on the same days
        const other = y[(i * 7919 + 104_729) % y.length] ?? null;
        if (other === null) continue;
        asked++;
        if ((x[i] as number) > (other as number)) broken++;
      }
      const byChance = asked ? broken / asked : 0;
      const isWorth = byChance >= LEAST_BROKEN_BY_CHANCE && of - fits <= of * byChance * MOST_OF_CHANCE;
      if (of < 30 || fits < of * ORDER_SHARE || equal > of * 0.9 || !isWorth) continue;
      const [first, second] = [a.definition.label, b.definition.label];
      const message = a.definition.type === 'number' ? `${first} is more than ${second}.` : `${first} is after ${second}.`;
      found.push({ kind: 'check', field: a.key, formula: `${nameOf(a)} > ${nameOf(b)}`, message, fits, of, today: null, exceptions: exceptionsOf(world, holds) }); // prettier-ignore
    }
  }
  return found;
}
const isNone = (value: Datum | undefined): boolean => value === null || value === undefined;
const checksSay = (a: PlanField, b: PlanField): boolean => a.checks.some((c) => reads(c.when.formula, b));

/**
 * Bounds that nearly all numbers of a field keep, where the few others lie far out: beyond three times the distance of the quartiles
 * (Tukey, Exploratory data analysis, 1977: the outer fences).
 */
export function bounds(world: World): Proposal[] {
  return numbersOf(world).flatMap(({ field, values, distinct }): Proposal[] => {
    if (field.value?.kind === 'calculation' || field.checks.length > 0) return [];
    const sorted = values.filter((v): v is number => v !== null).sort((a, b) => a - b);
    if (sorted.length < 50 || distinct < 10) return [];
    const at = (share: number): number => sorted[Math.floor((sorted.length - 1) * share)]!;
    const spread = at(0.75) - at(0.25);
    if (spread <= 0) return [];
    const [low, high] = [at(0.25) - 3 * spread, at(0.75) + 3 * spread];
    const inside = sorted.filter((v) => v >= low && v <= high);
    const outside = sorted.length - inside.length;
    if (outside === 0 || outside > Math.max(2, sorted.length * 0.01)) return [];
    const [least, most] = [inside[0]!, inside.at(-1)!];
    const parts = [
      ...(sorted[0]! < low ? [`${nameOf(field)} < ${roundedDown(least)}`] : []),
      ...(sorted.at(-1)! > high ? [`${nameOf(field)} > ${roundedUp(most)}`] : []),
    ];
    const holds = (i: number): boolean | null => {
      const v = values[i] ?? null;
      return v === null ? null : v >= low && v <= high;
    };
    return [{ kind: 'check', field: field.key, formula: parts.join(' OR '), message: `${field.definition.label} is usually between ${roundedDown(least)} and ${roundedUp(most)}.`, fits: inside.length, of: sorted.length, today: null, exceptions: exceptionsOf(world, holds) }]; // prettier-ignore
  });
}
/** To two figures, away from what is inside. */
function rounded(value: number, way: (x: number) => number): number {
  if (value === 0) return 0;
  const unit = 10 ** (Math.floor(Math.log10(Math.abs(value))) - 1);
  return Number((way(value / unit) * unit).toPrecision(12));
}
const roundedDown = (value: number): number => rounded(value, Math.floor);
const roundedUp = (value: number): number => rounded(value, Math.ceil);

import type { PlanField } from '../engine/plan.ts';
import { quoted } from '../form/who.ts';
import { linkTarget } from '../model/tables.ts';
import { type Datum, same } from '../values/types.ts';
import type { Proposal } from './proposal.ts';
import { whereMost } from './where.ts';
import { type World, exceptionsOf, fieldsOf, isLink, valuesOf } from './world.ts';

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
    if (field.value || isLink(field)) return [];
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
  const { plan } = world;
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
    const through = plan.own.find((f) => f.key === where.path)!;
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
  const field = world.plan.own.find((f) => f.key === key);
  if (!field) return null;
  const target = field.column ? linkTarget(field.column) : null;
  if (target === null) {
    const text = literal(field, value);
    return text === null ? null : `${key} = ${text}`;
  }
  const shown = world.plan.tables.get(target)?.shown;
  const name = shown ? world.rows.get(target)?.get(Number(value))?.[shown] : null;
  return typeof name === 'string' ? `${key}.${shown} = ${quoted(name)}` : null;
}

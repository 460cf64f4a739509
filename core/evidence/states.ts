import type { PlanField } from '../engine/plan.ts';
import type { Datum } from '../values/types.ts';
import { literal } from './habits.ts';
import type { Proposal } from './proposal.ts';
import { type World, exceptionsOf, fieldsOf, isFilledByForm, isLink, nameOf, valuesOf } from './world.ts';

/* Fields that are filled in only under a condition (show), always under one (require), or never (unused). */
const LEAST = { records: 20, side: 10 } as const;
const MOST_VALUES = 12;
/** As good as never, as good as always, at least often. */
const [NEVER, OFTEN, ALWAYS] = [0.02, 0.5, 0.99];

interface Side {
  readonly value: Datum;
  readonly of: number;
  readonly filled: number;
}
/** How often a field is filled in, by the value of another that has few. */
function sidesOf(values: readonly Datum[], by: readonly Datum[]): Side[] | null {
  const sides = new Map<Datum, { of: number; filled: number }>();
  for (let i = 0; i < by.length; i++) {
    const value = by[i] ?? null;
    if (value === null || typeof value === 'object') continue;
    const side = sides.get(value) ?? { of: 0, filled: 0 };
    side.of++;
    if ((values[i] ?? null) !== null) side.filled++;
    sides.set(value, side);
    if (sides.size > MOST_VALUES) return null;
  }
  return [...sides].map(([value, side]) => ({ value, ...side }));
}
const isOne = (field: PlanField): boolean => field.definition.type === 'yesno' || (field.choices !== null && !isLink(field));
function conditionOf(field: PlanField, values: readonly Datum[]): string | null {
  const texts = values.map((v) => literal(field, v));
  if (!texts.length || texts.includes(null)) return null;
  return texts.length === 1 ? `${nameOf(field)} = ${texts[0]}` : `${nameOf(field)} IN (${texts.join(', ')})`;
}

/** Fields that are filled in only, or always, where another has certain values. */
export function states(world: World): Proposal[] {
  const fields = fieldsOf(world);
  return fields.flatMap((field): Proposal[] => {
    const values = valuesOf(world, field);
    // what fills itself says nothing of what people do
    if (field.value || isFilledByForm(world, field) || values.every((v) => v === null) || values.every((v) => v !== null)) return [];
    const found: Proposal[] = [];
    for (const by of fields) {
      if (by === field || !isOne(by) || found.length) continue;
      const given = valuesOf(world, by);
      const sides = sidesOf(values, given);
      if (!sides || sides.length < 2) continue;
      const [without, among] = [sides.filter((s) => s.filled <= s.of * NEVER), sides.filter((s) => s.filled >= s.of * OFTEN)];
      const count = (all: readonly Side[]): number => all.reduce((n, s) => n + s.of, 0);
      if (without.length + among.length !== sides.length || count(without) < LEAST.side || count(among) < LEAST.side) continue;
      const condition = conditionOf(by, among.map((s) => s.value)); // prettier-ignore
      if (condition === null) continue;
      const inside = new Set(among.map((s) => s.value));
      if (!field.shown.length && !field.showing.length) {
        const holds = (i: number): boolean | null =>
          (given[i] ?? null) === null ? null : inside.has(given[i]!) || (values[i] ?? null) === null;
        const exceptions = exceptionsOf(world, holds);
        found.push({ kind: 'show', field: field.key, formula: condition, message: null, of: count(sides), fits: count(sides) - without.reduce((n, s) => n + s.filled, 0), today: null, exceptions }); // prettier-ignore
      }
      const always = among.every((s) => s.filled >= s.of * ALWAYS) && count(among) >= LEAST.records;
      if (always && !field.required.length) {
        const holds = (i: number): boolean | null => (inside.has(given[i] ?? null) ? (values[i] ?? null) !== null : null);
        found.push({ kind: 'require', field: field.key, formula: condition, message: null, of: count(among), fits: among.reduce((n, s) => n + s.filled, 0), today: null, exceptions: exceptionsOf(world, holds) }); // prettier-ignore
      }
    }
    return found;
  });
}

/** Fields that hold nothing in any record. */
export function unused(world: World): Proposal[] {
  if (world.ids.length < LEAST.records) return [];
  return fieldsOf(world).flatMap((field): Proposal[] =>
    valuesOf(world, field).every((v) => v === null)
      ? [{ kind: 'unused', field: field.key, formula: '', message: null, fits: world.ids.length, of: world.ids.length, today: null, exceptions: [] }] // prettier-ignore
      : [],
  );
}

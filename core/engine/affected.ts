import { fillable } from './backfill.ts';
import { comparable } from './conditions.ts';
import type { Plan, PlanField } from './plan.ts';

/** What of a field decides over its value, as text: the same in two plans where nothing of it was changed. */
function signature(plan: Plan, field: PlanField): string {
  const { type, column, source, value, decimals, files, accept, hiddenValue } = field.definition;
  const lines = field.group === null ? null : plan.lines[field.group]!.definition;
  const asksMaps = [...(field.value?.formula.extras.values() ?? [])].some((e) => e.kind === 'map');
  return JSON.stringify([
    type, column, source, value, decimals, files, accept, hiddenValue,
    comparable(field.shown), comparable(field.showing),
    lines && [lines.table, lines.link, lines.order],
    asksMaps ? plan.form.maps : null,
  ]); // prettier-ignore
}

/**
 * The fields a backfill can give (see `fillable`) whose values may come out otherwise in `now` than in `before`: those of which anything
 * that decides over the value was changed, and those that read such fields, however far. Without a version before: all. Paths, in the order
 * of the plan. Cost: linear in the fields and what they read.
 */
export function affectedFills(before: Plan | null, now: Plan): readonly string[] {
  const able = fillable(now);
  if (!before) return able.map((f) => f.key);
  const affected = new Set<number>();
  for (const field of now.fields) {
    const was = before.fields[before.slots.get(field.key) ?? -1];
    if (!was || signature(before, was) !== signature(now, field)) affected.add(field.slot);
  }
  const readers = new Map<number, number[]>();
  now.drivers.forEach((all, slot) => all.forEach((d) => readers.set(d.slot, [...(readers.get(d.slot) ?? []), slot])));
  const open = [...affected];
  for (let slot = open.pop(); slot !== undefined; slot = open.pop())
    for (const reader of readers.get(slot) ?? [])
      if (!affected.has(reader)) {
        affected.add(reader);
        open.push(reader);
      }
  return able.filter((f) => affected.has(f.slot)).map((f) => f.key);
}

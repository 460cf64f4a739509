import type { PlanField } from '../engine/plan.ts';
import { same } from '../values/types.ts';
import { isSeveral, linkTarget } from '../model/tables.ts';
import type { Proposal } from './proposal.ts';
import { determination } from './together.ts';
import { type Reached, type World, agreement, exceptionsOf, fieldsOf, isLink, nameOf, valuesOf } from './world.ts';

/*
 * Fields that follow the row another field holds: a value that equals a column of it (prefill), a link that lies under it (narrowing).
 * Both are approximate dependencies: at most a twentieth of the records may be otherwise (the measure g₃ of Kivinen and Mannila,
 * Approximate inference of functional dependencies, 1995), and agreement must be far beyond chance.
 */
const LEAST = { share: 0.95, records: 20, kappa: 0.8, distinct: 2 } as const;
const speaks = (a: { of: number; fits: number; kappa: number; distinct: number } | null): a is NonNullable<typeof a> =>
  a !== null && a.of >= LEAST.records && a.fits >= a.of * LEAST.share && a.kappa >= LEAST.kappa && a.distinct >= LEAST.distinct;

const comparable = (field: PlanField, { column }: Reached): boolean =>
  field.column !== null && column.type === field.column.type && (column.target ?? null) === (field.column.target ?? null);
/** Whether a choice fills a field already, as its genus and family a species. */
const fillsUp = (world: World, from: PlanField, field: PlanField): boolean =>
  (from.choices?.fills ?? []).some((slot) => slot === field.slot || fillsUp(world, world.plan.fields[slot]!, field));

/** Whether a list is narrowed by a field already, or by one below it that fills it. */
const narrowsBy = (world: World, child: PlanField, parent: PlanField): boolean =>
  (child.choices?.narrowing?.parts ?? []).some(({ equates }) => {
    const by = equates && world.plan.fields[equates.slot];
    return by ? by === parent || fillsUp(world, by, parent) : false;
  });

/** Fields whose value equals a column of a chosen row, up to three links away. */
export function prefills(world: World, reached: ReadonlyMap<PlanField, readonly Reached[]>): Proposal[] {
  return fieldsOf(world).flatMap((field): Proposal[] => {
    if (field.value?.kind === 'calculation') return [];
    const values = valuesOf(world, field);
    let best: { at: Reached; fits: number; of: number } | null = null;
    let today: number | null = null;
    for (const [from, all] of reached) {
      if (from === field || fillsUp(world, from, field)) continue;
      for (const at of all) {
        if (!comparable(field, at)) continue;
        const found = agreement(values, at.values, LEAST.share);
        if (found && field.value?.formula.text === at.path) today = found.fits;
        if (!speaks(found)) continue;
        if (!best || found.fits > best.fits || (found.fits === best.fits && at.hops < best.at.hops))
          best = { at, fits: found.fits, of: found.of };
      }
    }
    // a link that stands before the one that follows it narrows that one's list: see below
    if (best && isLink(field) && best.at.hops === 1 && field.at < best.at.from.at && best.at.from.choices?.source.kind === 'rows')
      return [];
    // what is given already as well is no news
    if (!best || field.value?.formula.text === best.at.path || (today !== null && best.fits <= today)) return [];
    const { at } = best;
    const exceptions = exceptionsOf(world, (i) => {
      const [a, b] = [values[i] ?? null, at.values[i] ?? null];
      return a === null || b === null ? null : same(a, b);
    });
    return [{ kind: 'prefill', field: field.key, formula: at.path, message: null, fits: best.fits, of: best.of, today, exceptions }];
  });
}

/** Links that in nearly all records lie under the row another field holds, and whose list does not say so. */
export function narrowings(world: World, reached: ReadonlyMap<PlanField, readonly Reached[]>): Proposal[] {
  const fields = fieldsOf(world).filter(isLink);
  return fields.flatMap((child): Proposal[] => {
    if (child.choices?.stores !== 'row' || !child.choices.table || child.choices.source.kind !== 'rows') return [];
    const own = (reached.get(child) ?? []).filter((r) => r.hops === 1);
    const found: Proposal[] = [];
    for (const parent of fields) {
      if (parent === child || !parent.column) continue;
      const target = linkTarget(parent.column);
      if (narrowsBy(world, child, parent)) continue;
      for (const at of own) {
        if (linkTarget(at.column) !== target) continue;
        const values = valuesOf(world, parent);
        const agreed = agreement(values, at.values, LEAST.share);
        if (!speaks(agreed)) continue;
        const exceptions = exceptionsOf(world, (i) => {
          const [a, b] = [values[i] ?? null, at.values[i] ?? null];
          return a === null || b === null ? null : same(a, b);
        });
        found.push({ kind: 'narrowing', field: child.key, formula: `choice.${at.column.key} = ${nameOf(parent)}`, message: null, fits: agreed.fits, of: agreed.of, today: null, exceptions }); // prettier-ignore
      }
    }
    return found;
  });
}

/**
 * Choices among the values that stand in a column of the records themselves, of which each comes with one value of another field: their
 * list may be narrowed by that one.
 */
export function cascades(world: World): Proposal[] {
  const { form } = world.plan;
  const columnOf = (f: PlanField): string => f.definition.column!;
  const isOwn = (f: PlanField): boolean => {
    const { source } = f.definition;
    return source?.kind === 'distinct' && source.table === form.table && source.values === columnOf(f);
  };
  return fieldsOf(world).flatMap((child): Proposal[] => {
    const { source } = child.definition;
    if (!isOwn(child) || source?.kind !== 'distinct' || source.where !== null) return [];
    let best: { proposal: Proposal; values: number } | null = null;
    for (const parent of fieldsOf(world)) {
      if (parent === child || !parent.choices || isSeveral(parent.definition.type)) continue;
      const found = determination(valuesOf(world, child), valuesOf(world, parent));
      // of those it lies under, the one that leaves fewest
      if (!found || (best && found.values <= best.values)) continue;
      const formula = `choice.${columnOf(parent)} = ${nameOf(parent)}`;
      best = { values: found.values, proposal: { kind: 'narrowing', field: child.key, formula, message: null, fits: found.fits, of: found.of, today: null, exceptions: exceptionsOf(world, found.holds) } }; // prettier-ignore
    }
    return best ? [best.proposal] : [];
  });
}

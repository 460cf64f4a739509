import { cascades, narrowings, prefills } from './follows.ts';
import { type Overruled, carries, defaults, defaultsBy, otherwise, ownDefaults } from './habits.ts';
import { bounds, calculations, lineSums, orders } from './numbers.ts';
import type { Proposal } from './proposal.ts';
import { states, unused } from './states.ts';
import { type World, fieldsOf, isLink, reachedFrom } from './world.ts';

/** The most that is proposed at once: what speaks loudest. */
const MOST = 60;

/**
 * Everything the records of a form propose for it, with its evidence; nothing that the form does already. What follows a chosen row,
 * and every count given, is exact over all records; only what is far from fitting is put aside on a sample of 500 (120 for numbers),
 * with a margin of ten in a hundred: of 500, one that fits 95 in 100 falls below 85 in less than one of 10¹⁵ samples. `begins` hears
 * what is looked for. Cost: records × fields × columns they reach, for the part that is not put aside.
 */
export function proposalsOf(
  world: World,
  overruled: readonly Overruled[],
  begins: (what: string, share: number) => void = () => {},
): Proposal[] {
  begins('what follows chosen rows', 0);
  const reached = new Map(fieldsOf(world).filter(isLink).map((f) => [f, reachedFrom(world, f)])); // prettier-ignore
  const follows = [...prefills(world, reached), ...narrowings(world, reached), ...cascades(world)];
  begins('what is calculated', 0.4);
  const summed = lineSums(world);
  const sums = new Set(summed.map((p) => p.field));
  const calculated = [...summed, ...calculations(world).filter((p) => !sums.has(p.field))];
  const numbers = [...calculated, ...orders(world, calculated), ...bounds(world)];
  begins('habits', 0.75);
  const plain = [...ownDefaults(world), ...defaults(world)];
  // what is mostly one value needs no more than that, unless a choice tells clearly more
  const by = defaultsBy(world).filter((p) => plain.every((q) => q.field !== p.field || p.fits - q.fits >= p.of * 0.05));
  const told = new Set(by.map((p) => p.field));
  const starts = [...plain.filter((p) => !told.has(p.field)), ...by];
  const has = new Set(starts.map((p) => p.field));
  const habits = [...otherwise(world, overruled), ...starts, ...carries(world).filter((p) => !has.has(p.field))];
  begins('what is filled in when', 0.9);
  const all = [...habits, ...follows, ...numbers, ...states(world), ...unused(world)];
  // a field that follows a row needs no default; what is never filled in has nothing else to it
  const prefilled = new Set(all.filter((p) => p.kind === 'prefill' || p.kind === 'calculation').map((p) => p.field));
  return all.filter((p) => (p.kind !== 'default' && p.kind !== 'carry') || !prefilled.has(p.field)).slice(0, MOST);
}

import { nearest } from '../values/text.ts';
import type { Entry } from './entry.ts';
import type { PlanField } from './plan.ts';
import { ungroup } from '../formula/syntax.ts';
import { narrowRows } from '../choices/narrowing.ts';

/**
 * When an equality of texts left no candidate: the spellings among the rows it was tested on that are nearly the
 * one sought ("Wet heath" against "wet heath "). Empty for other conditions and for large sources.
 * Cost: one pass over the rows left by the parts before.
 */
export function nearMisses(entry: Entry, field: PlanField, line: number | null, part: number): string[] {
  const narrowing = field.choices?.narrowing;
  const at = narrowing?.parts[part];
  const node = at && ungroup(at.syntax);
  const all = field.choices?.table ? entry.cache.table(field.choices.table)?.rows : null;
  if (!narrowing || !node || !all || node.kind !== 'binary' || node.operator !== '=') return [];
  const column = [node.left, node.right].find(
    (side) => side.kind === 'member' && narrowing.formula.bindings.get(side.object)?.source.kind === 'candidate',
  );
  const env = entry.environmentOf(field.key, line);
  const param = at.params[0];
  if (column?.kind !== 'member' || param === undefined) return [];
  const sought = narrowing.params[param]?.run(env);
  if (typeof sought !== 'string') return [];
  const offer = entry.offer(field.key, line);
  const open = new Set(offer?.open ?? []);
  narrowing.parts.forEach((_, i) => i >= part && open.add(i));
  const spellings = new Set<string>();
  for (const row of narrowRows(narrowing, all, open, { ...env, params: offer?.params ?? [] }).rows) {
    const value = row[column.property];
    if (typeof value === 'string') spellings.add(value);
  }
  return nearest(sought, spellings);
}

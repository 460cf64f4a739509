import { narrowRows } from '../choices/narrowing.ts';
import { pathOf, ungroup } from '../formula/syntax.ts';
import { nearest } from '../values/text.ts';
import { type Type, UNKNOWN } from '../values/typing.ts';
import type { Datum, Row } from '../values/types.ts';
import type { Entry } from './entry.ts';
import type { PlanField } from './plan.ts';

/** What a part that left nothing was asked of: the values that the rows before it do have. */
export interface Instead {
  /** the column (or the path through links) that was compared, as the formula names it after `choice.` */
  readonly column: string;
  readonly type: Type;
  /** the values that exist, the commonest first; at most `MOST_EXISTING` */
  readonly exist: readonly { readonly value: Datum; readonly rows: number }[];
  /** how many more there are */
  readonly more: number;
  /** spellings that are nearly the one sought ("Wet heath" against "wet heath ") */
  readonly nearMisses: readonly string[];
}
export const MOST_EXISTING = 5;

/**
 * For an equality that left no candidate: what exists instead among the rows it was tested on. Null for other conditions and for
 * large sources. Cost: one pass over the rows left by the parts before.
 */
export function insteadOf(entry: Entry, field: PlanField, line: number | null, part: number): Instead | null {
  const narrowing = field.choices?.narrowing;
  const at = narrowing?.parts[part];
  const node = at && ungroup(at.syntax);
  const all = field.choices?.table ? entry.cache.table(field.choices.table)?.rows : null;
  if (!narrowing || !node || !all || node.kind !== 'binary' || node.operator !== '=') return null;
  const side = [node.left, node.right].find(
    (s) => s.kind === 'member' && narrowing.formula.bindings.get(rootOf(s))?.source.kind === 'candidate',
  );
  const path = side && pathOf(side)?.slice(1);
  const other = side === node.left ? node.right : node.left;
  // a fixed text is no parameter: it is compared as it is written
  const param = at.params[0];
  const fixed = ungroup(other).kind === 'text' ? ungroup(other) : null;
  if (!path || (param === undefined && !fixed)) return null;
  const offer = entry.offer(field.key, line);
  const open = new Set(offer?.open ?? []);
  narrowing.parts.forEach((_, i) => i >= part && open.add(i));
  const env = { ...entry.environmentOf(field.key, line), params: offer?.params ?? [] };
  const counts = new Map<Datum, number>();
  for (const row of narrowRows(narrowing, all, open, env).rows) {
    const value = valueAt(entry, row, path, field.choices?.table ?? '');
    if (value !== null && !Array.isArray(value)) counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  const sought = fixed?.kind === 'text' ? fixed.value : narrowing.params[param ?? -1]?.run(env);
  const exist = [...counts].map(([value, rows]) => ({ value, rows })).sort((a, b) => b.rows - a.rows);
  const texts = exist.flatMap((e) => (typeof e.value === 'string' ? [e.value] : []));
  return {
    column: path.join('.'),
    type: narrowing.formula.types.get(side) ?? UNKNOWN,
    exist: exist.slice(0, MOST_EXISTING),
    more: Math.max(0, exist.length - MOST_EXISTING),
    nearMisses: typeof sought === 'string' ? nearest(sought, texts) : [],
  };
}

/** What stands at the end of a path from a row, as far as the rows on the way are known. */
function valueAt(entry: Entry, row: Row, path: readonly string[], table: string): Datum {
  let here: Row | null | undefined = row;
  let of = table;
  for (const [i, key] of path.entries()) {
    const value: Datum = here?.[key] ?? null;
    if (i === path.length - 1) return value;
    const target: string | null = entry.plan.tables.get(of)?.columns.find((c) => c.key === key)?.target ?? null;
    if (typeof value !== 'number' || target === null) return null;
    here = entry.cache.row(target, value);
    of = target;
  }
  return null;
}
const rootOf = <N extends { kind: string; object?: unknown }>(node: N): N => (node.kind === 'member' ? rootOf(node.object as N) : node);

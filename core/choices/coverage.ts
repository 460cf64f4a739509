import type { Plan, PlanField } from '../engine/plan.ts';
import { targetOf } from '../model/tables.ts';
import { type Syntax, pathOf, ungroup } from '../formula/syntax.ts';
import { looseKey } from '../values/text.ts';

/** One level of a cascade: a field whose list is rows of a table, and the link through which it hangs on the level above. */
export interface CascadeLevel {
  readonly slot: number;
  readonly field: string;
  readonly label: string;
  readonly table: string;
  /** the column of this table that holds the row above; null at the top */
  readonly link: string | null;
}

/**
 * The cascades of a form, each from its top field to its last: chains of row lists in which each is narrowed by
 * `choice.<link> = <field above>`. A field narrowed by two others is in a cascade of each. Fields in no chain are left out.
 */
export function cascadesOf(plan: Plan): CascadeLevel[][] {
  const above = new Map<number, { slot: number; link: string }[]>();
  for (const field of plan.fields) above.set(field.slot, linksOf(plan, field));
  const isAbove = new Set([...above.values()].flat().map((a) => a.slot));
  const chains: CascadeLevel[][] = [];
  const climb = (slot: number, link: string | null, below: readonly CascadeLevel[]): void => {
    const level = levelOf(plan, slot, link);
    // a circle of narrowings is a problem of the form and has no top
    if (!level || below.some((b) => b.slot === slot)) return;
    const parents = above.get(slot) ?? [];
    if (!parents.length) {
      if (below.length) chains.push([level, ...below]);
      return;
    }
    for (const p of parents) climb(p.slot, null, [{ ...level, link: p.link }, ...below]);
  };
  for (const field of plan.fields) if (!isAbove.has(field.slot)) climb(field.slot, null, []);
  return chains;
}

function levelOf(plan: Plan, slot: number, link: string | null): CascadeLevel | null {
  const field = plan.fields[slot];
  const table = field?.choices?.stores === 'row' ? field.choices.table : null;
  return field && table ? { slot, field: field.key, label: field.definition.label, table, link } : null;
}

function linksOf(plan: Plan, field: PlanField): { slot: number; link: string }[] {
  const found: { slot: number; link: string }[] = [];
  const table = field.choices?.table ? plan.tables.get(field.choices.table) : undefined;
  for (const part of field.choices?.narrowing?.parts ?? []) {
    const link = part.equates && linkOf(part.syntax);
    const column = link ? table?.columns.find((c) => c.key === link) : undefined;
    const parent = part.equates ? plan.fields[part.equates.slot] : undefined;
    if (part.equates && column && parent?.choices?.stores === 'row' && targetOf(column) === parent.choices.table)
      found.push({ slot: part.equates.slot, link: column.key });
  }
  return found;
}

/** The column in `choice.<column> = field`, when the candidate's side is a plain column. */
function linkOf(syntax: Syntax): string | null {
  const node = ungroup(syntax);
  if (node.kind !== 'binary') return null;
  for (const side of [node.left, node.right]) {
    const path = pathOf(ungroup(side));
    if (path?.length === 2 && path[0] === 'choice') return path[1] ?? null;
  }
  return null;
}

/** The parts of a level's narrowing that ask only of the candidate (`choice.active`): they count wherever one stands. */
export function standingParts(plan: Plan, slot: number): readonly number[] {
  return (plan.fields[slot]?.choices?.narrowing?.parts ?? []).flatMap((p, i) =>
    p.drivers.length === 0 && p.params.length === 0 ? [i] : [],
  );
}

export interface Spelled {
  readonly text: string;
  /** rows known by it, by id; for values of a column, how many rows have it */
  readonly ids: readonly number[];
  readonly count: number;
}

/** Texts that are the same but for case, accents, hyphens and spaces: groups of two or more, the commonest spelling first. */
export function nearDuplicates(texts: readonly Spelled[]): Spelled[][] {
  const groups = new Map<string, Spelled[]>();
  for (const t of texts) {
    const key = looseKey(t.text);
    if (key !== '') groups.set(key, [...(groups.get(key) ?? []), t]);
  }
  return [...groups.values()]
    .filter((g) => g.length > 1 || (g[0]?.ids.length ?? 0) > 1)
    .map((g) => g.sort((a, b) => b.count - a.count || a.text.length - b.text.length));
}

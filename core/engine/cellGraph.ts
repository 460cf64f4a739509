import { decimalsFor } from '../form/fit.ts';
import { CALCULATED } from '../form/fills/index.ts';
import { type FieldPart, type FormProblem, formProblem } from '../form/problems.ts';
import { together } from '../formula/arithmetic.ts';
import type { Formula } from '../formula/formula.ts';
import { CELLS } from './cells/index.ts';
import { type PlanCondition, formulasIn } from './conditions.ts';
import { order } from './graph.ts';
import {
  AS_IT_IS,
  CELL_KINDS,
  type Cell,
  type CellKind,
  type Driver,
  LINES_KINDS,
  type LinesKind,
  type Plan,
  type PlanArithmetic,
  type PlanCells,
  type PlanField,
  type PlanLines,
  TO_15_DIGITS,
} from './plan.ts';

/*
 * The dependency graph over cells: which cells a form and its lines have, what each reads, in which order they settle.
 * Cells of line fields stand once in the graph, for every line of their group.
 */

type Graph = Pick<Plan, 'fields' | 'arithmetic' | 'cells' | 'cellTable' | 'dependents' | 'across' | 'cellOf' | 'drivers' | 'frameCells'>;

/** The formulas a field's cell computes with. */
export const formulasOf = (field: PlanField, kind: CellKind): readonly Formula[] => CELLS[kind].formulas(field);

/** The slots a field's cell reads. */
const slotsOf = (field: PlanField, kind: CellKind): readonly number[] => [
  ...formulasOf(field, kind).flatMap((f) => f.slots),
  ...(CELLS[kind].slots?.(field) ?? []),
];

type Node = Pick<Cell, 'kind' | 'slot' | 'group' | 'cause' | 'calculated'>;
/** How a change of a cell is told. */
const told = (key: string, cell: CellKind | LinesKind): Pick<Cell, 'cause' | 'calculated'> => ({
  cause: { kind: 'cell', field: key, cell },
  calculated: { field: key, cell, origin: CALCULATED },
});
const linesConditions = (lines: PlanLines, kind: LinesKind): readonly PlanCondition[] =>
  kind === 'linesShown' ? [...lines.shown, ...lines.showing] : kind === 'linesRequired' ? lines.required : kind === 'linesLocked' ? lines.locked : []; // prettier-ignore
/** Whether a cell is one of the lines themselves, and not of a field. */
export const isOfLines = (kind: Node['kind']): kind is LinesKind => LINES_KINDS.includes(kind as LinesKind);

/** How many cells are looked at in one step. */
const CELLS_AT_ONCE = 100;

/**
 * Makes the graph of the cells of these fields (by slot) and lines (by group), in steps; gives it at its end. Cells in a circle are left
 * without formula, and the circle is added to `problems`. Cost: linear in cells and edges.
 */
export function* buildGraph(fields: readonly PlanField[], lines: readonly PlanLines[], problems: FormProblem[]): Generator<void, Graph> {
  const nodes: Node[] = [];
  /** by kind and slot: the node, -1 where there is none */
  const at = new Map<Node['kind'], Int32Array>([
    ...CELL_KINDS.map((kind) => [kind, new Int32Array(fields.length).fill(-1)] as const),
    ...LINES_KINDS.map((kind) => [kind, new Int32Array(lines.length).fill(-1)] as const),
  ]);
  const add = (node: Node): void => {
    at.get(node.kind)![node.slot] = nodes.length;
    nodes.push(node);
  };
  for (const field of fields)
    for (const kind of CELL_KINDS)
      if (CELLS[kind].has(field)) add({ kind, slot: field.slot, group: field.group, ...told(field.key, kind) });
  for (const own of lines)
    for (const kind of LINES_KINDS)
      if (kind === 'lines' || linesConditions(own, kind).length) add({ kind, slot: own.group, group: null, ...told(own.key, kind) });
  const cellAt = (kind: Node['kind'], slot: number): number => at.get(kind)?.[slot] ?? -1;
  const present = (cells: readonly number[]): number[] => cells.filter((c) => c >= 0);

  const formulas = ({ kind, slot }: Node): readonly Formula[] =>
    isOfLines(kind) ? formulasIn(linesConditions(lines[slot] as PlanLines, kind)) : formulasOf(fields[slot] as PlanField, kind);
  const plainReads = (node: Node): number[] => {
    const found = formulas(node).flatMap((f) => [
      ...f.slots.map((s) => cellAt('value', s)),
      ...f.items.map((s) => cellAt('choices', s)),
      ...f.lists.groups.map((g) => cellAt('lines', g)),
    ]);
    if (isOfLines(node.kind)) {
      // lines that are emptied by being hidden are none
      const empties = node.kind === 'lines' && lines[node.slot]?.definition.hiddenValue === 'clear';
      return present(empties ? [...found, cellAt('linesShown', node.slot)] : found);
    }
    const { kind, slot } = node;
    const field = fields[slot] as PlanField;
    found.push(...(CELLS[kind].slots?.(field) ?? []).map((s) => cellAt('value', s)));
    // levels further up narrow it while those between are empty: no track of its own, since the tracks between are there
    if (kind === 'choices')
      for (const p of field.choices?.narrowing?.parts ?? []) if (p.through) found.push(...p.drivers.map((s) => cellAt('value', s)));
    return present([...found, ...CELLS[kind].after.map((k) => cellAt(k, slot))]);
  };
  const acrossReads = (node: Node): number[] => present(formulas(node).flatMap((f) => f.lists.slots.map((s) => cellAt('value', s))));

  const plain: number[][] = [];
  const across: number[][] = [];
  for (const node of nodes) {
    plain.push(plainReads(node));
    across.push(acrossReads(node));
    if (plain.length % CELLS_AT_ONCE === 0) yield;
  }
  const { order: sorted, cycles } = order(nodes.map((_, i) => [...(plain[i] ?? []), ...(across[i] ?? [])]));
  const broken = new Set<number>();
  for (const cycle of cycles) {
    const inIt = cycle.map((c) => nodes[c] as Node).filter((n) => !isOfLines(n.kind));
    for (const cell of inIt) broken.add(cell.slot);
    problems.push(cycleProblem(fields, inIt as { kind: CellKind; slot: number }[]));
  }
  const position = new Int32Array(nodes.length);
  sorted.forEach((node, id) => (position[node] = id));
  const counters = new Map<number | null, number>();
  const cells = sorted.map((node, id): Cell => {
    const { kind, slot, group, cause, calculated } = nodes[node] as Node;
    const local = counters.get(group) ?? 0;
    counters.set(group, local + 1);
    return { id, kind, slot, group, local, cause, calculated };
  });
  yield;
  const invert = (reads: readonly (readonly number[])[]): number[][] => {
    const dependents: number[][] = cells.map(() => []);
    reads.forEach((sources, cell) => {
      for (const source of new Set(sources)) {
        // edges inside a cycle point backwards and are left out: the cells of a cycle are not computed
        if ((position[source] as number) < (position[cell] as number))
          dependents[position[source] as number]?.push(position[cell] as number);
      }
    });
    return dependents.map((d) => d.sort((a, b) => a - b));
  };
  const cellsOf = (kind: Node['kind'], count: number): Int32Array =>
    Int32Array.from({ length: count }, (_, slot) => {
      const c = cellAt(kind, slot);
      return c < 0 ? -1 : (position[c] as number);
    });
  const kept = fields.map((f) =>
    broken.has(f.slot) ? { ...f, value: null, isPlain: false, choices: f.choices && { ...f.choices, narrowing: null } } : f,
  );
  const arithmetic = arithmeticIn(kept);
  const dependents = invert(plain);
  yield;
  const drivers: Driver[][] = [];
  for (const field of fields) {
    drivers.push(driversOf(field));
    if (drivers.length % CELLS_AT_ONCE === 0) yield;
  }
  return {
    fields: kept,
    arithmetic,
    cells,
    cellTable: tableOf(cells, dependents, arithmetic),
    dependents,
    across: invert(across),
    frameCells: { form: counters.get(null) ?? 0, lines: lines.map((l) => counters.get(l.group) ?? 0) },
    cellOf: Object.fromEntries([
      ...CELL_KINDS.map((kind) => [kind, cellsOf(kind, fields.length)]),
      ...LINES_KINDS.map((kind) => [kind, cellsOf(kind, lines.length)]),
    ]) as Graph['cellOf'],
    drivers: withSpreads(fields, drivers),
  };
}

/** The cells laid out by id, see `PlanCells`. */
function tableOf(cells: readonly Cell[], dependents: readonly (readonly number[])[], arithmetic: PlanArithmetic): PlanCells {
  const readersFrom = new Int32Array(cells.length + 1);
  dependents.forEach((readers, id) => (readersFrom[id + 1] = (readersFrom[id] as number) + readers.length));
  return {
    local: Int32Array.from(cells, (c) => c.local),
    group: Int32Array.from(cells, (c) => c.group ?? -1),
    isArithmetic: Uint8Array.from(cells, (c) => (c.kind === 'value' && (arithmetic.from[c.slot] as number) >= 0 ? 1 : 0)),
    readers: Int32Array.from(dependents.flat()),
    readersFrom,
  };
}

function arithmeticIn(fields: readonly PlanField[]): PlanArithmetic {
  const own = fields.map((f) => (f.isPlain ? (f.value?.arithmetic ?? null) : null));
  return {
    ...together(own),
    at: Int32Array.from(fields, (f) => f.at),
    rounding: Int32Array.from(
      fields,
      ({ definition, column }, slot) => decimalsFor(definition, column) ?? (own[slot]?.isHeld ? AS_IT_IS : TO_15_DIGITS),
    ),
  };
}

function driversOf(field: PlanField): Driver[] {
  const found: Driver[] = [];
  for (const through of CELL_KINDS) {
    const read = [...slotsOf(field, through), ...formulasOf(field, through).flatMap((f) => f.lists.slots)];
    for (const slot of new Set(read)) {
      if (slot !== field.slot && !found.some((d) => d.slot === slot)) found.push({ slot, through });
    }
  }
  return found;
}

/** What a field sets in others by a change of hand is a track too. */
function withSpreads(fields: readonly PlanField[], drivers: Driver[][]): Driver[][] {
  for (const field of fields)
    for (const { slot } of field.spreads)
      if (!drivers[slot]?.some((d) => d.slot === field.slot)) drivers[slot]?.push({ slot: field.slot, through: 'value' });
  return drivers;
}

function cycleProblem(fields: readonly PlanField[], cycle: readonly { kind: CellKind; slot: number }[]): FormProblem {
  const slots: number[] = [];
  // written the way values flow: what is read first
  for (const { slot } of [...cycle].reverse()) if (slots.at(-1) !== slot) slots.push(slot);
  if (slots.length > 1 && slots[0] === slots.at(-1)) slots.pop();
  // lines that wait for themselves
  if (!slots.length) return formProblem('cycle', null, 'shown', 'Lines that are emptied when they are hidden cannot be shown or hidden by what they hold. Keep them when hidden, or take another condition.'); // prettier-ignore
  const path = [...slots, slots[0] as number].map((s) => fields[s] as PlanField);
  const message = `These fields wait for each other: ${path.map((f) => f.definition.label).join(' → ')}. Nothing in the circle can be computed; take one step out.`;
  const first = cycle[0] as { kind: CellKind; slot: number };
  const part: FieldPart =
    first.kind === 'choices' ? 'where' : first.kind === 'checks' ? 'checks.0' : first.kind === 'words' ? 'hint' : first.kind;
  return formProblem('cycle', path[0]?.key ?? null, part, message, { path: path.map((f) => f.key) });
}

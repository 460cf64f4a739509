import { formulasOf, isOfLines } from './cellGraph.ts';
import { comparable } from './conditions.ts';
import { CELL_KINDS, type Cell, LINES_KINDS, type Plan, type PlanField, type PlanLines } from './plan.ts';

/*
 * What of a stored record has to be worked out to know what would change in it. A backfill of two fields, or a draft in which two were
 * changed, asks nothing of most of a form: what it does not reach comes out as it stands, whoever works it out.
 */

/** The part of a form that an entry works out; see `EntryContext.extent`. */
export interface Extent {
  /** by cell id, whether the cell is computed */
  readonly cells: Uint8Array;
  /** by slot, whether what is wrong with the field is told */
  readonly judged: Uint8Array;
}

/**
 * The extent of a backfill of fields, by their paths: they, what rests on them, and what of a stored record changes by itself when it is
 * opened; with all that these read. What a backfill comes to in it is what it comes to in the whole form (held by a property test). Cost:
 * linear in the cells and what they read. Paths that are none are left out.
 */
export function extentOf(plan: Plan, fields: readonly string[]): Extent {
  return withRead(plan, reached(plan, new Set([...fields, ...changing(plan)]), new Set()));
}

/**
 * The extents of two versions of a form in which they may come to something else on the same stored record, beside what a backfill of
 * `fields` reaches. Cost: as `extentOf`, a few times.
 */
export function extentsOf(before: Plan, now: Plan, fields: readonly string[]): { readonly before: Extent; readonly now: Extent } {
  const paths = new Set([...fields, ...changing(before), ...changing(now), ...fieldsChanged(before, now)]);
  const lines = new Set(linesChanged(before, now));
  // what is reached in one is looked at in the other too, so that both tell of the same fields
  for (let known = -1; known !== paths.size;) {
    known = paths.size;
    for (const plan of [before, now])
      for (const id of indices(reached(plan, paths, lines))) {
        const { kind, slot } = plan.cells[id] as Cell;
        const field = isOfLines(kind) ? undefined : plan.fields[slot];
        if (field) paths.add(field.key);
        else lines.add(plan.lines[slot]?.key ?? '');
      }
  }
  return { before: withRead(before, reached(before, paths, lines)), now: withRead(now, reached(now, paths, lines)) };
}

function* indices(marks: Uint8Array): Generator<number> {
  for (let i = 0; i < marks.length; i++) if (marks[i] === 1) yield i;
}

/** The cells of a field; of lines, those of the lines themselves. */
const cellsOf = ({ cellOf }: Plan, kinds: readonly (keyof Plan['cellOf'])[], at: number): readonly number[] =>
  kinds.map((kind) => cellOf[kind][at] ?? -1).filter((id) => id >= 0);

/** The cells that read a cell, beside those that a choice fills: by their ids. */
function readersOf(plan: Plan, { id, kind, slot }: Cell): readonly number[] {
  const readers = [...(plan.dependents[id] ?? []), ...(plan.across[id] ?? [])];
  const fills = kind === 'value' ? (plan.fields[slot]?.choices?.fills ?? []) : [];
  return fills.length ? [...readers, ...fills.map((s) => plan.cellOf.value[s] as number)] : readers;
}

/** The cells of fields (by path) and of lines (by key), and whatever reads them, however far. */
function reached(plan: Plan, paths: ReadonlySet<string>, lines: ReadonlySet<string>): Uint8Array {
  const found = new Uint8Array(plan.cells.length);
  const open: number[] = [];
  const add = (id: number): void => {
    if (found[id] === 1) return;
    found[id] = 1;
    open.push(id);
  };
  for (const { key, slot } of plan.fields) if (paths.has(key)) cellsOf(plan, CELL_KINDS, slot).forEach(add);
  for (const { key, group } of plan.lines) if (lines.has(key)) cellsOf(plan, LINES_KINDS, group).forEach(add);
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    const cell = plan.cells[id] as Cell;
    readersOf(plan, cell).forEach(add);
    // lines that come to be shown come to be judged, and so does a line that is blank no more
    const lines = cell.kind === 'linesShown' ? cell.slot : cell.kind === 'value' ? cell.group : null;
    if (lines !== null) for (const { group, slot } of plan.fields) if (group === lines) cellsOf(plan, CELL_KINDS, slot).forEach(add);
  }
  return found;
}

/**
 * Whether a cell that nothing reaches need not be worked out to be read: a stored value stands as it is. A choice that stores a value of
 * rows that are asked for is read together with its row, which is one of its list.
 */
function standsAsStored({ fields }: Plan, { kind, slot }: Cell): boolean {
  if (kind !== 'value') return false;
  const { definition, choices } = fields[slot] as PlanField;
  return definition.column !== null && (!choices || choices.stores === 'row' || choices.options !== null);
}
/** What is reached, all else of the fields in it, and what those read, however far; not beyond values that stand as they are stored. */
function withRead(plan: Plan, from: Uint8Array): Extent {
  const cells = new Uint8Array(plan.cells.length);
  const judged = new Uint8Array(plan.fields.length);
  const reads: number[][] = plan.cells.map(() => []);
  for (const cell of plan.cells)
    for (const reader of [...(plan.dependents[cell.id] ?? []), ...(plan.across[cell.id] ?? [])]) reads[reader]?.push(cell.id);
  const open: number[] = [];
  const add = (id: number): void => {
    if (cells[id] === 1) return;
    cells[id] = 1;
    open.push(id);
  };
  for (const id of indices(from)) {
    const { kind, slot } = plan.cells[id] as Cell;
    add(id);
    const field = isOfLines(kind) ? undefined : plan.fields[slot];
    if (field) {
      judged[slot] = 1;
      cellsOf(plan, CELL_KINDS, slot).forEach(add);
    }
    // a line is judged while its lines are shown
    const group = field ? field.group : slot;
    if (group !== null) cellsOf(plan, LINES_KINDS, group).forEach(add);
  }
  for (let id = open.pop(); id !== undefined; id = open.pop())
    for (const read of reads[id] as readonly number[]) if (!standsAsStored(plan, plan.cells[read] as Cell)) add(read);
  return { cells, judged };
}

/** The fields of a stored record whose value may change by its being opened alone: what is always calculated anew, and what is emptied while it is hidden. */
function changing(plan: Plan): string[] {
  const { fields, cellOf } = plan;
  const empties = ({ definition, shown, showing }: PlanField): boolean =>
    definition.hiddenValue === 'clear' || [...shown, ...showing].some((c) => c.empties);
  return fields
    .filter(
      (f) =>
        (f.value?.definition.kind === 'calculation' && f.value.definition.always) || ((cellOf.shown[f.slot] as number) >= 0 && empties(f)),
    )
    .map((f) => f.key);
}

/** The fields of `now` of which anything is defined otherwise than it was. */
function fieldsChanged(before: Plan, now: Plan): string[] {
  const sameMaps = JSON.stringify(before.form.maps) === JSON.stringify(now.form.maps);
  const differs = (field: PlanField): boolean => {
    const was = before.fields[before.slots.get(field.key) ?? -1];
    return !was || (!sameMaps && asksMaps(field)) || signature(before, was) !== signature(now, field);
  };
  return now.fields.filter(differs).map((f) => f.key);
}
const asksMaps = (field: PlanField): boolean =>
  CELL_KINDS.some((kind) => formulasOf(field, kind).some((f) => [...f.extras.values()].some((e) => e.kind === 'map')));
/** The lines of `now` of which anything is defined otherwise than it was. */
const linesChanged = (before: Plan, now: Plan): string[] =>
  now.lines
    .filter((l) => {
      const was = before.lines.find((b) => b.key === l.key);
      return !was || linesSignature(was) !== linesSignature(l);
    })
    .map((l) => l.key);

const text = (words: PlanField['checks'][number]['message']): string => (typeof words === 'string' ? words : words.text);
/** All that is defined of a field, its section and its rules, as text: the same in two plans where nothing of it was changed. */
function signature(plan: Plan, { definition, group, shown, showing, required, locked, filling, checks }: PlanField): string {
  const lines = group === null ? null : (plan.lines[group] as PlanLines).definition;
  return JSON.stringify([
    definition,
    [shown, showing, required, locked, filling].map(comparable),
    checks.map((c) => [comparable([c.when]), text(c.message), c.severity, c.at]),
    lines && [lines.table, lines.link, lines.order],
  ]);
}
function linesSignature({ definition, shown, showing, required, locked, filling }: PlanLines): string {
  return JSON.stringify([{ ...definition, fields: null, columns: null }, [shown, showing, required, locked, filling].map(comparable)]);
}

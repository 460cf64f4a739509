import type { Plan, PlanField } from '../engine/plan.ts';
import { type Column, linkTarget } from '../model/tables.ts';
import { type Datum, type Row, same } from '../values/types.ts';

/* What proposals are looked for in: the records of a form column by column, and the rows they link to. */

/** The rows that links lead to, by table and number. */
export type LinkedRows = ReadonlyMap<string, ReadonlyMap<number, Row>>;

/** The records of a form, or the lines of a group. Values stand column by column, all in the order of `ids`. */
export interface World {
  readonly plan: Plan;
  /** the fields that are looked at: the form’s own, or those of the group */
  readonly fields: readonly PlanField[];
  /** the record each stands for, or lies in, by number */
  readonly ids: readonly number[];
  /** the day each was saved first, ISO; null where that is not known */
  readonly days: readonly (string | null)[];
  /** who saved each by a form, as a row of people: only compared with what stands in it; null where that is not known */
  readonly makers: readonly (number | null)[];
  /** the lines of the records, group by group, for what is summed over them */
  readonly lines: readonly LinesOf[];
  readonly columns: ReadonlyMap<string, readonly Datum[]>;
  readonly rows: LinkedRows;
  /** columns that the form itself has set in saves: by a rule, a move, a choice below */
  readonly byForm: ReadonlySet<string>;
}

/** Lines that lie in records: `parents` gives for each the place of its record. */
export interface LinesOf {
  readonly key: string;
  readonly fields: readonly PlanField[];
  readonly parents: readonly number[];
  readonly columns: ReadonlyMap<string, readonly Datum[]>;
}

/** The lines of each group as worlds of their own. What is proposed for them is asked of each line; exceptions are told by its record. */
export const linesWorlds = (world: World): World[] =>
  world.lines.map(({ fields, parents, columns }) => ({
    ...world,
    fields,
    columns,
    ids: parents.map((p) => world.ids[p]!),
    days: parents.map((p) => world.days[p] ?? null),
    makers: parents.map((p) => world.makers[p] ?? null),
    lines: [],
    byForm: new Set(),
  }));

/** A column that can be reached from a chosen row, with what stands there for each record. */
export interface Reached {
  /** as a formula names it: `species.genus.family` */
  readonly path: string;
  readonly from: PlanField;
  readonly column: Column;
  readonly hops: number;
  readonly values: readonly Datum[];
}
const MOST_HOPS = 3;
/** The most columns looked at from one field. */
const MOST_REACHED = 400;

const NOTHING: readonly Datum[] = [];
export const valuesOf = (world: World, field: PlanField): readonly Datum[] => world.columns.get(field.definition.column ?? '') ?? NOTHING;
/** The fields that are looked at: those that are saved and hold no files. */
export const fieldsOf = (world: World): readonly PlanField[] =>
  world.fields.filter((f) => f.definition.column !== null && world.columns.has(f.definition.column) && f.definition.type !== 'json');
/** Whether the form itself fills a field: a choice that fills it, a rule, a move. What it holds says nothing of what people do. */
export const isFilledByForm = (world: World, field: PlanField): boolean =>
  world.byForm.has(field.definition.column ?? '') || world.fields.some((f) => f.choices?.fills.includes(field.slot));
/** What a formula beside it calls a field: inside lines its own name. */
export const nameOf = (field: PlanField): string => field.key.slice(field.key.lastIndexOf('.') + 1);
/** Whether a field holds the number of one row. */
export const isLink = (field: PlanField): boolean => field.column !== null && linkTarget(field.column) !== null;

/** The columns of the row a field holds, and of rows that one links to, up to three links away. */
export function reachedFrom(world: World, from: PlanField): Reached[] {
  const found: Reached[] = [];
  const start = from.column ? linkTarget(from.column) : null;
  if (start === null) return found;
  let level = [{ path: nameOf(from), table: start, values: valuesOf(world, from), seen: new Set([start]) }];
  for (let hops = 1; hops <= MOST_HOPS; hops++) {
    const next: typeof level = [];
    for (const at of level) {
      const rows = world.rows.get(at.table);
      const columns = rows ? (world.plan.tables.get(at.table)?.columns ?? []) : [];
      for (const column of columns) {
        if (found.length >= MOST_REACHED) return found;
        const values = at.values.map((id) => (typeof id === 'number' ? (rows!.get(id)?.[column.key] ?? null) : null));
        const path = `${at.path}.${column.key}`;
        found.push({ path, from, column, hops, values });
        const target = linkTarget(column);
        if (target !== null && !at.seen.has(target)) next.push({ path, table: target, values, seen: new Set([...at.seen, target]) });
      }
    }
    level = next;
  }
  return found;
}

/** How far two columns agree. */
export interface Agreement {
  /** records in which both have a value */
  readonly of: number;
  readonly fits: number;
  /** Cohen’s kappa (1960): agreement beyond what their frequencies alone would give; 1 is all, 0 none */
  readonly kappa: number;
  /** different values among those of the first */
  readonly distinct: number;
}
/** Compares two columns record by record; looks at a sample first, and gives up where that fits in fewer than `least`. */
export function agreement(a: readonly Datum[], b: readonly Datum[], least: number): Agreement | null {
  const stride = Math.max(1, Math.floor(a.length / SAMPLE));
  if (stride > 1) {
    const sample = count(a, b, stride);
    // far enough below that chance does not matter
    if (sample.of >= 30 && sample.fits < sample.of * (least - 0.1)) return null;
  }
  return count(a, b, 1);
}
const SAMPLE = 500;
function count(a: readonly Datum[], b: readonly Datum[], stride: number): Agreement {
  let [of, fits] = [0, 0];
  const [inA, inB] = [new Map<string, number>(), new Map<string, number>()];
  for (let i = 0; i < a.length; i += stride) {
    const [x, y] = [a[i] ?? null, b[i] ?? null];
    if (x === null || y === null) continue;
    of++;
    if (same(x, y)) fits++;
    const [p, q] = [keyOf(x), keyOf(y)];
    inA.set(p, (inA.get(p) ?? 0) + 1);
    inB.set(q, (inB.get(q) ?? 0) + 1);
  }
  let chance = 0;
  for (const [key, n] of inA) chance += (n / of) * ((inB.get(key) ?? 0) / of);
  const share = of ? fits / of : 0;
  return { of, fits, kappa: chance >= 1 ? 0 : (share - chance) / (1 - chance), distinct: inA.size };
}
const keyOf = (value: Datum): string => (typeof value === 'object' ? JSON.stringify(value) : `${typeof value} ${String(value)}`);

/** The records in which a test fails, by number: the first of them. */
export function exceptionsOf(world: World, holds: (i: number) => boolean | null): number[] {
  const found = new Set<number>();
  for (let i = 0; i < world.ids.length && found.size < MOST_EXCEPTIONS; i++) if (holds(i) === false) found.add(world.ids[i]!);
  return [...found];
}
const MOST_EXCEPTIONS = 30;

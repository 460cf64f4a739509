import type { z } from 'zod';
import type { Scope, TableShape } from '../formula/scope.ts';
import * as T from '../values/typing.ts';
import type { Type } from '../values/typing.ts';
import { COLUMN_TYPES, type ColumnType, FILES, KINDS } from '../values/kinds/index.ts';
import type { columnSchema } from './schemas.ts';

export { COLUMN_TYPES, FILES };
export type { ColumnType };
export const COLUMN_TYPE_LABELS = Object.fromEntries(COLUMN_TYPES.map((t) => [t, KINDS[t].label])) as Readonly<Record<ColumnType, string>>;

/** Names of tables, columns and fields: what formulas can write and SQL can hold. */
export const KEY_PATTERN = /^[a-z][a-z0-9_]{0,59}$/;
const RESERVED = new Set(['id', 'me', 'entry', 'choice', 'parent', 'last', 'before', 'and', 'or', 'not', 'in', 'between', 'true', 'false']);
/** Why the text cannot be a key, as a sentence; null when it can. */
export function keyProblem(key: string): string | null {
  if (RESERVED.has(key)) return `“${key}” is a word of the formula language and cannot be a name.`;
  if (!KEY_PATTERN.test(key) || key.includes('__')) {
    return `“${key}” cannot be a name: use small letters, digits and single _, beginning with a letter, at most 60.`;
  }
  return null;
}

/** A key made from a label: "Weight of 1000 seeds" → weight_of_1000_seeds. `taken` keys get a number behind. */
export function keyFromLabel(label: string, taken: Iterable<string> = []): string {
  let base = label
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    // through upper case, so that ß becomes ss
    .toUpperCase()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, 50);
  if (!/^[a-z]/.test(base)) base = `f_${base}`.replace(/_+$/, '');
  if (RESERVED.has(base)) base = `${base}_1`;
  const used = new Set(taken);
  let key = base;
  for (let n = 2; used.has(key); n++) key = `${base}_${n}`;
  return key;
}
export type Column = z.infer<typeof columnSchema>;

/** A named condition over a table, usable as a source everywhere. */
export interface Subset {
  readonly key: string;
  readonly label: string;
  /** formula text over `choice`, the row */
  readonly condition: string;
}

/** A table as the rest of core knows it. `large` tables are narrowed by the server, others are sent whole. */
export interface Table {
  readonly key: string;
  readonly label: string;
  readonly shown: string | null;
  readonly columns: readonly Column[];
  readonly rows: number;
  readonly large: boolean;
  readonly subsets?: readonly Subset[];
}
export type Tables = ReadonlyMap<string, Table>;

/** Up to this many rows a table is sent whole and narrowed in memory (engine.md). */
export const WHOLE_LIMIT = 2000;

/** Columns that hold several values. */
export const isSeveral = (type: ColumnType): boolean => KINDS[type].several;
/** Columns that hold rows, which a file or a text names by what they are known by. */
export const holdsRows = (type: ColumnType): boolean => KINDS[type].rows !== null;
/** Whether a column of the type says itself which table's rows it holds. */
export const namesTable = (type: ColumnType): boolean => KINDS[type].rows === 'named';

/** The formula type of a column or field. */
export const typeOfColumn = (type: ColumnType, target: string | null, options: readonly string[] | null = null): Type =>
  KINDS[type].formula(target, options);

export const columnOf = (table: Table, key: string): Column | undefined => table.columns.find((c) => c.key === key);
/** The table whose rows a column holds; null for other columns. */
export function targetOf({ type, target }: Pick<Column, 'type' | 'target'>): string | null {
  const { rows } = KINDS[type];
  return rows === 'named' ? target : (rows?.table ?? null);
}
/** The table that a column which holds one row, and not several, leads to. */
export const linkTarget = (column: Pick<Column, 'type' | 'target'>): string | null => (isSeveral(column.type) ? null : targetOf(column));

type ColumnShapes = TableShape['columns'];
/** What was made of columns: nobody changes them, and each formula of hundreds of tables asks for all of them. */
const columnShapes = new WeakMap<readonly Column[], ColumnShapes>();
function shapesOfColumns(columns: readonly Column[]): ColumnShapes {
  const known = columnShapes.get(columns);
  if (known) return known;
  const shapes = new Map(columns.map((c) => [c.key, { key: c.key, label: c.label, type: typeOfColumn(c.type, c.target) }]));
  if (!shapes.has('id')) shapes.set('id', { key: 'id', label: 'Number of the row', type: T.NUMBER });
  columnShapes.set(columns, shapes);
  return shapes;
}

/** The tables as the checker wants them. The columns of a table are gone through once, however often it is asked. */
export function shapesOf(tables: Tables): Scope['tables'] {
  const shapes = new Map<string, TableShape>();
  for (const { key, label, shown, columns } of tables.values()) shapes.set(key, { key, label, shown, columns: shapesOfColumns(columns) });
  const file = (key: string, label: string, type: Type) => [key, { key, label, type }] as const;
  shapes.set(FILES, {
    key: FILES,
    label: 'Files',
    shown: 'name',
    columns: new Map([file('name', 'Name', T.TEXT), file('kind', 'Kind', T.TEXT), file('size', 'Size in bytes', T.NUMBER)]),
  });
  return shapes;
}

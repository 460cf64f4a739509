import type { Scope, TableShape } from '../formula/scope.ts';
import * as T from '../formula/types.ts';
import type { Type } from '../formula/types.ts';
import { z } from 'zod';

export const COLUMN_TYPES = [
  'text',
  'longtext',
  'number',
  'date',
  'time',
  'datetime',
  'yesno',
  'choice',
  'choices',
  'link',
  'links',
  'person',
  'file',
  'json',
] as const;
export type ColumnType = (typeof COLUMN_TYPES)[number];

export const COLUMN_TYPE_LABELS: Readonly<Record<ColumnType, string>> = {
  text: 'Text', longtext: 'Long text', number: 'Number', date: 'Date', time: 'Time', datetime: 'Date and time',
  yesno: 'Yes/no', choice: 'Choice', choices: 'Choices, several', link: 'Link to a row', links: 'Links, several', person: 'Person',
  file: 'File', json: 'JSON',
}; // prettier-ignore

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
export const keySchema = z.string().refine((k) => keyProblem(k) === null, { error: (i) => keyProblem(String(i.input)) ?? 'bad name' });

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

export const columnSchema = z.object({
  key: keySchema,
  label: z.string().min(1).max(120),
  type: z.enum(COLUMN_TYPES),
  /** link: the table whose rows it holds */
  target: keySchema.nullable().default(null),
  /** number: decimals kept; null for any */
  decimals: z.number().int().min(0).max(15).nullable().default(null),
  /** text: the most characters; null for the general limit */
  length: z.number().int().min(1).max(100_000).nullable().default(null),
});
export type Column = z.infer<typeof columnSchema>;

export const MAX_TEXT = 10_000;

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

/** The table of what is known of stored files: name, kind, size. A file column holds the number of its row. */
export const FILES = '_files';
/** Columns that hold several values. */
export const isSeveral = (type: ColumnType): boolean => type === 'choices' || type === 'links';

/** The formula type of a column or field. */
export function typeOfColumn(type: ColumnType, target: string | null, options: readonly string[] | null = null): Type {
  switch (type) {
    case 'text':
    case 'longtext':
      return T.TEXT;
    case 'choice':
      return { kind: 'choice', options };
    case 'choices':
      return T.listOf({ kind: 'choice', options });
    case 'link':
      return target ? T.rowOf(target) : T.UNKNOWN;
    case 'links':
      return T.listOf(target ? T.rowOf(target) : T.UNKNOWN);
    case 'person':
      return T.rowOf('people');
    case 'file':
      return T.rowOf(FILES);
    default:
      return { kind: type };
  }
}

export const columnOf = (table: Table, key: string): Column | undefined => table.columns.find((c) => c.key === key);
/** The table a link or person column leads to; null for other columns. */
export const targetOf = (column: Pick<Column, 'type' | 'target'>): string | null => {
  switch (column.type) {
    case 'person':
      return 'people';
    case 'link':
    case 'links':
      return column.target;
    default:
      return null;
  }
};

/** The tables as the checker wants them. */
export function shapesOf(tables: Tables): Scope['tables'] {
  const shapes = new Map<string, TableShape>();
  for (const table of tables.values()) {
    const columns = new Map(table.columns.map((c) => [c.key, { key: c.key, label: c.label, type: typeOfColumn(c.type, c.target) }]));
    if (!columns.has('id')) columns.set('id', { key: 'id', label: 'Number of the row', type: T.NUMBER });
    shapes.set(table.key, { key: table.key, label: table.label, shown: table.shown, columns });
  }
  const file = (key: string, label: string, type: Type) => [key, { key, label, type }] as const;
  shapes.set(FILES, {
    key: FILES,
    label: 'Files',
    shown: 'name',
    columns: new Map([file('name', 'Name', T.TEXT), file('kind', 'Kind', T.TEXT), file('size', 'Size in bytes', T.NUMBER)]),
  });
  return shapes;
}

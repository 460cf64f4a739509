import { holdsFiles } from '../values/kinds/index.ts';
import { z } from 'zod';
import { type Column, type ColumnType, type Subset, type Table, isSeveral, targetOf } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import { KINDS } from '../values/kinds/index.ts';

/*
 * Tabular data packages (Data Package and Table Schema, datapackage.org): a datapackage.json that describes CSV files, their
 * fields and foreign keys. What our tables know beyond the standard stands under the name "acorn", which others ignore.
 */

const fieldSchema = z.looseObject({
  name: z.string(),
  title: z.string().optional(),
  type: z.string().default('string'),
  acorn: z.looseObject({ type: z.string() }).optional(),
});
const foreignKeySchema = z.looseObject({
  fields: z.union([z.string(), z.array(z.string())]),
  reference: z.looseObject({ resource: z.string(), fields: z.union([z.string(), z.array(z.string())]) }),
});
const resourceSchema = z.looseObject({
  name: z.string(),
  title: z.string().optional(),
  path: z.union([z.string(), z.array(z.string())]).optional(),
  schema: z.looseObject({ fields: z.array(fieldSchema).max(500), foreignKeys: z.array(foreignKeySchema).default([]) }),
  acorn: z.looseObject({ shown: z.string().nullable() }).optional(),
});
export const dataPackageSchema = z.looseObject({ resources: z.array(resourceSchema).min(1).max(200) });
export type DataPackage = z.infer<typeof dataPackageSchema>;
export type Resource = DataPackage['resources'][number];

/** The types of Table Schema as ours. */
const FROM_STANDARD: Readonly<Record<string, ColumnType>> = {
  string: 'text', number: 'number', integer: 'number', year: 'number', boolean: 'yesno', date: 'date', time: 'time', datetime: 'datetime', object: 'json', array: 'json', geojson: 'json',
}; // prettier-ignore

/** The name of the key that our packages give every row. */
export const KEY_FIELD = 'id';

/** One table as a resource: its rows keyed by `id`, links as foreign keys to it. Links to tables that are not in the package stay numbers. */
export function resourceOf(table: Pick<Table, 'key' | 'label' | 'shown' | 'columns' | 'subsets'>, packaged: ReadonlySet<string>): object {
  const linked = table.columns.filter((c) => !isSeveral(c.type) && packaged.has(targetOf(c) ?? ''));
  return {
    name: table.key,
    title: table.label,
    path: `${table.key}.csv`,
    profile: 'tabular-data-resource',
    schema: {
      fields: [
        { name: KEY_FIELD, title: 'Number of the row', type: 'integer' },
        ...table.columns.map((c) => ({
          name: c.key,
          title: c.label,
          type: KINDS[c.type].standard.type,
          ...KINDS[c.type].standard.more,
          acorn: { type: c.type, target: c.target, decimals: c.decimals, length: c.length },
        })),
      ],
      primaryKey: KEY_FIELD,
      foreignKeys: linked.map((c) => ({ fields: c.key, reference: { resource: targetOf(c), fields: KEY_FIELD } })),
    },
    acorn: { shown: table.shown, subsets: table.subsets ?? [] },
  };
}

/** A resource as a table to be: its columns with links resolved to other resources, and the field that keys its rows. */
export interface PackagedTable {
  readonly resource: string;
  readonly label: string;
  readonly shown: string | null;
  readonly subsets: readonly Subset[];
  /** by field of the file: the column, or null for our own row key, which becomes the row's number */
  readonly columns: readonly {
    readonly field: string;
    readonly column: Column | null;
    readonly link: { resource: string; field: string } | null;
  }[];
}

const one = (names: string | readonly string[]): string | null =>
  typeof names === 'string' ? names : names.length === 1 ? (names[0] ?? null) : null;

/** Reads a resource. `keyOf` makes a name of a field; links to several fields at once are left as plain columns. */
export function tableOf(resource: Resource, keyOf: (label: string, taken: readonly string[]) => string): PackagedTable {
  const taken: string[] = [];
  const columns = resource.schema.fields.map((field) => {
    const foreign = resource.schema.foreignKeys.find((f) => one(f.fields) === field.name);
    const to = foreign && one(foreign.reference.fields);
    // an empty name means the resource itself
    const link = foreign && to ? { resource: foreign.reference.resource || resource.name, field: to } : null;
    if (field.name === KEY_FIELD) return { field: field.name, column: null, link: null };
    const key = keyOf(field.name, taken);
    taken.push(key);
    const own = columnSchema.safeParse({ ...field.acorn, key, label: field.title ?? field.name });
    const base = own.success
      ? own.data
      : columnSchema.parse({ key, label: field.title ?? field.name, type: FROM_STANDARD[field.type] ?? 'text' });
    if (link) return { field: field.name, column: { ...base, type: 'link' as const, target: link.resource, decimals: null }, link };
    const loose = targetOf(base) !== null || holdsFiles(base.type);
    // a link without its table is kept as what stands there
    return {
      field: field.name,
      column: loose ? { ...base, type: isSeveral(base.type) ? ('text' as const) : ('number' as const), target: null } : base,
      link: null,
    };
  });
  return {
    resource: resource.name,
    label: resource.title ?? resource.name.replaceAll(/[_-]+/g, ' '),
    shown:
      resource.acorn?.shown ??
      columns.find((c) => c.column?.type === 'text')?.column?.key ??
      columns.find((c) => c.column)?.column?.key ??
      null,
    subsets: z.array(z.object({ key: z.string(), label: z.string(), condition: z.string() })).safeParse(resource.acorn?.subsets).data ?? [],
    columns,
  };
}

/**
 * Tables so ordered that each comes after those it links to; links within itself and around circles are left for afterwards. Takes
 * tables of any shape, and what each is called and links to.
 */
export function inOrder<T>(tables: readonly T[], of: (table: T) => { readonly name: string; readonly links: readonly string[] }): T[] {
  const done: T[] = [];
  const rest = tables.map((table) => ({ table, ...of(table) }));
  const names = new Map<string, number>();
  const count = (name: string, by: number): unknown => names.set(name, (names.get(name) ?? 0) + by);
  for (const { name } of rest) count(name, 1);
  while (rest.length) {
    const free = rest.findIndex((t) => t.links.every((link) => link === t.name || !names.get(link)));
    for (const { table, name } of rest.splice(Math.max(0, free), 1)) {
      done.push(table);
      count(name, -1);
    }
  }
  return done;
}

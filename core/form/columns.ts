import { sourceRows } from '../choices/sources/index.ts';
import type { Form } from './definition.ts';
import { type Column, type Table, type Tables, namesTable } from '../model/tables.ts';

/** The columns that fields which have none yet in their table will get when the form is published. */
export function missingColumns(fields: Form['fields'], existing: readonly Column[]): Column[] {
  const known = new Set(existing.map((c) => c.key));
  const missing: Column[] = [];
  for (const field of Object.values(fields)) {
    if (!field.column || known.has(field.column)) continue;
    known.add(field.column);
    const target = namesTable(field.type) ? sourceRows(field.source) : null;
    missing.push({ key: field.column, label: field.label, type: field.type, target, decimals: field.decimals, length: null });
  }
  return missing;
}

/** The tables as they will be once the form is published: what its formulas may name. */
export function tablesOncePublished(form: Form, tables: Tables): Tables {
  const grown = new Map(tables);
  const grow = (key: string, fields: Form['fields']): void => {
    const table: Table | undefined = grown.get(key);
    const missing = table ? missingColumns(fields, table.columns) : [];
    if (table && missing.length) grown.set(key, { ...table, columns: [...table.columns, ...missing] });
  };
  grow(form.table, form.fields);
  for (const lines of Object.values(form.lines)) grow(lines.table, lines.fields);
  return grown;
}

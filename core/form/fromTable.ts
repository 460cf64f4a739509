import { type Column, type Tables, targetOf } from '../model/tables.ts';
import { type Form } from './definition.ts';
import { fieldSchema, newForm } from './schemas.ts';

/** How a field of a column chooses: the rows its links lead to, by what they are known by; the values that the column has. */
function sourceOf(column: Column, table: string, tables: Tables): object | null {
  const target = targetOf(column);
  if (target !== null) {
    const shown = tables.get(target)?.shown ?? 'name';
    return { kind: 'rows', table: target, show: shown, sort: [shown] };
  }
  // what stands in the column is what can be chosen, until somebody says otherwise
  return column.type === 'choice' || column.type === 'choices' ? { kind: 'distinct', table, values: column.key } : null;
}

/**
 * A form over a table that is there, with a field for each of its columns, in their order and under their names. Takes the tables for
 * what linked rows are shown by. It says nothing of how fields fill: that is proposed from the rows (see core/evidence).
 */
export function formOfTable(key: string, label: string, table: string, tables: Tables): Form {
  const form = newForm(key, label, table);
  const columns = tables.get(table)?.columns ?? [];
  const fields = Object.fromEntries(
    columns.map((c) => [c.key, fieldSchema.parse({ label: c.label, type: c.type, column: c.key, source: sourceOf(c, table, tables) })]),
  );
  const [page] = form.pages;
  const pages = page
    ? [{ ...page, sections: page.sections.map((s, i) => (i ? s : { ...s, label, fields: columns.map((c) => c.key) })) }]
    : [];
  return { ...form, fields, pages };
}

import { type Field, type Form, type Lines } from '../form/definition.ts';
import { fieldSchema } from '../form/schemas.ts';
import type { Named } from '../formula/names.ts';
import { type Column, type Subset, type Table, type Tables } from '../model/tables.ts';
import { columnSchema } from '../model/schemas.ts';
import type { Plan } from './plan.ts';
import { subsetsWith, withFormulas } from './rename.ts';

/**
 * Columns of a table that become a table of their own: `by` becomes a link to it, `columns` move there. Its rows are known by the
 * column `shown`, which holds what stood in `by`.
 */
export interface Split {
  readonly table: string;
  readonly by: string;
  readonly columns: readonly string[];
  readonly target: string;
  readonly label: string;
  readonly shown: string;
}

/** The new table, without rows, and the old one as it is afterwards. Throws RangeError where the table or a column is not there. */
export function tablesSplit(tables: Tables, split: Split): { readonly target: Table; readonly tables: Tables } {
  const table = tables.get(split.table);
  const named = (key: string): Column => {
    const column = table?.columns.find((c) => c.key === key);
    if (!column) throw new RangeError(`There is no column “${key}”.`);
    return column;
  };
  const by = named(split.by);
  const target: Table = {
    key: split.target,
    label: split.label,
    shown: split.shown,
    columns: [columnSchema.parse({ key: split.shown, label: by.label, type: 'text' }), ...split.columns.map(named)],
    rows: 0,
    large: false,
  };
  const columns = table!.columns.flatMap((c) => (split.columns.includes(c.key) ? [] : [c === by ? linkColumn(by, split) : c]));
  return { target, tables: new Map(tables).set(target.key, target).set(table!.key, { ...table!, columns }) };
}
/** The column that held a text as the link to the new table. */
export const linkColumn = ({ key, label }: Column, { target }: Split): Column => columnSchema.parse({ key, label, type: 'link', target });

/** What a word of a formula becomes: what the table said, its link says now. `byKeys`: the fields that chose by it, by slot. */
function wordSplit(split: Split, byKeys: ReadonlyMap<number, string>): (named: Named) => string | null {
  return (n) => {
    const by = n.kind === 'field' ? byKeys.get(n.slot) : n.kind === 'column' && n.table === split.table ? split.by : undefined;
    if (by === undefined || n.kind === 'field') return by === undefined ? null : `${by}.${split.shown}`;
    if (n.kind !== 'column') return null;
    if (n.column === split.by) return `${by}.${split.shown}`;
    return split.columns.includes(n.column) ? `${by}.${n.column}` : null;
  };
}

/**
 * A form over a table that is split: what is saved in `by` chooses a row of the new table; what was saved in a column that moved is
 * not saved any more, but chosen above, where it is a link, or read from the row chosen. Formulas say the same in the new words. Null
 * where the form keeps one of the columns but not `by`: then nothing would say what they are.
 */
export function withSplit(plan: Plan, split: Split): Form | null {
  const saved = plan.fields.filter((f) => f.definition.column === split.by && tableOf(plan, f.key) === split.table);
  const form = withFormulas(plan, plan.form, wordSplit(split, new Map(saved.map((f) => [f.slot, f.key.split('.').at(-1)!]))));
  let whole = true;
  const fieldsOf = (fields: Readonly<Record<string, Field>>): Record<string, Field> => {
    const found = fieldsSplit(fields, split);
    whole &&= found !== null;
    return found ?? { ...fields };
  };
  const lines = Object.entries(form.lines).map(([key, l]): [string, Lines] => [
    key,
    l.table === split.table ? { ...l, fields: fieldsOf(l.fields) } : l,
  ]);
  const changed = {
    ...form,
    fields: form.table === split.table ? fieldsOf(form.fields) : form.fields,
    lines: Object.fromEntries(lines),
  };
  return whole ? changed : null;
}
const tableOf = (plan: Plan, path: string): string | undefined => {
  const [outer = '', inner] = path.split('.');
  return inner === undefined ? plan.form.table : plan.form.lines[outer]?.table;
};

function fieldsSplit(fields: Readonly<Record<string, Field>>, split: Split): Record<string, Field> | null {
  const by = Object.keys(fields).find((k) => fields[k]!.column === split.by);
  const moved = Object.keys(fields).filter((k) => split.columns.includes(fields[k]!.column ?? ''));
  if (by === undefined) return moved.length ? null : { ...fields };
  const above = moved.filter((k) => fields[k]!.type === 'link' && fields[k]!.source?.kind === 'rows');
  const where = above.map((k) => `choice.${fields[k]!.column!} = ${k}`).join(' AND ');
  const source = { kind: 'rows', table: split.target, show: split.shown, sort: [split.shown], where: where || null };
  // its type, and the list it had as a text, do not outlive it
  const result: Record<string, Field> = { ...fields, [by]: fieldSchema.parse({ ...fields[by], type: 'link', source }) };
  for (const key of moved) {
    const { column, ...field } = fields[key]!;
    result[key] = above.includes(key)
      ? fieldSchema.parse({ ...field, column: null })
      : fieldSchema.parse({ ...field, column: null, source: null, required: null, value: { kind: 'calculation', formula: `${by}.${column!}` } }); // prettier-ignore
  }
  return result;
}

/** The subsets of a table as they say the same once it, or one it links to, is split. `tables` are those before. */
export const subsetsSplit = (table: Pick<Table, 'key' | 'subsets'>, tables: Tables, split: Split): readonly Subset[] =>
  subsetsWith(table, tables, wordSplit(split, new Map()));

import type { AnswerOf } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import { decimalsFor } from '~~/core/form/fit.ts';
import { type Field, fieldOrder } from '~~/core/form/definition.ts';
import { type Step, stepOf } from '~~/core/form/steps.ts';
import type { Column } from '~~/core/model/tables.ts';
import type { ColumnType } from '~~/core/values/kinds/index.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

/* Records as lists and calendars show them: each column as its field says. */

export type RecordsPage = AnswerOf<typeof contract.entries.list>;
export type ListedRecord = RecordsPage['rows'][number];
export type Linked = Readonly<Record<string, Readonly<Record<number, string>>>>;

export interface RecordColumn {
  readonly key: string;
  readonly label: string;
  readonly type: ColumnType;
}
export interface RecordTexts {
  readonly columns: readonly RecordColumn[];
  /** those that stand there until somebody chooses: as many as a line can hold, with the step */
  readonly usual: readonly string[];
  /** what stands in a column of a record, for readers */
  text(columnKey: string, row: Row, linked: Linked): string;
  /** the step that stands in a column, where it is the one that holds steps */
  step(columnKey: string, row: Row): Step | null;
}

/** How the records of a form read. Takes its definition and the columns that whoever looks may see. */
export function recordTexts({ form, columns: seen }: Pick<RecordsPage, 'form' | 'columns'>): RecordTexts {
  const fields = fieldOrder(form)
    .map((k) => ({ field: form.fields[k]!, column: seen.find((c) => c.key === form.fields[k]?.column) }))
    .filter((f): f is { field: Field; column: Column } => f.column !== undefined);
  const byColumn = new Map(fields.map((f) => [f.column.key, f]));
  const columns = fields.map((f) => ({ key: f.column.key, label: f.field.label, type: f.column.type }));
  const steps = form.steps;
  const stepColumn = steps ? form.fields[steps.field]?.column : undefined;
  const first = columns.filter((c) => (COLUMN_LOOKS[c.type].lines ?? 1) === 1).slice(0, 8);
  return {
    columns,
    usual: columns.filter((c) => c.key === stepColumn || (first.includes(c) && (!stepColumn || c !== first[7]))).map((c) => c.key),
    text(columnKey, row, linked) {
      const f = byColumn.get(columnKey);
      const value: Datum = row[columnKey] ?? null;
      if (value === null || !f) return '';
      const { source, format } = f.field;
      if (source?.kind === 'options') return source.options.find((o) => o.value === value)?.label ?? String(value);
      if (format && !Array.isArray(value) && typeof value !== 'boolean' && f.column.target === null)
        return showPlain(f.column.type, value, decimalsFor(f.field, f.column), format);
      return cellText({ ...f.column, decimals: f.field.decimals }, value, linked);
    },
    step(columnKey, row) {
      return steps && stepColumn === columnKey ? (stepOf(steps, row[columnKey]) ?? null) : null;
    },
  };
}

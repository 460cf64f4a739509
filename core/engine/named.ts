import { type ReadRow, shownTextOf } from '../choices/shownText.ts';
import { FILES, isSeveral, targetOf } from '../model/tables.ts';
import { showAs } from '../values/kinds/index.ts';
import { foldText } from '../values/text.ts';
import type { Datum, Row } from '../values/types.ts';
import type { DataCache } from './cache.ts';
import { storedOf } from './candidates.ts';
import type { Plan, PlanField } from './plan.ts';

/* What rows are called where they are shown, and which row is meant by what somebody calls it. `locale` is the reader's. */

/** A table whose rows are known by a link to one whose rows are known by a link … ends somewhere. */
const MOST_LINKS = 4;

/** A row as people know it: its shown column, or another one. Takes its table and number; a row that is not here yet is “…”. */
export function rowText(plan: Plan, cache: DataCache, table: string, id: number, locale: string, column: string | null = null): string {
  const row = cache.row(table, id);
  const shown = column ?? (table === FILES ? 'name' : (plan.tables.get(table)?.shown ?? null));
  if (!row) return row === null ? `row ${id} (gone)` : '…';
  return shown ? columnText(plan, cache, table, row, shown, locale) || `row ${id}` : `row ${id}`;
}

/** What stands in a column of a row, for readers; a link as the row it leads to is known. */
function columnText(plan: Plan, cache: DataCache, table: string, row: Row, column: string, locale: string, depth = 0): string {
  const value = row[column];
  if (value === null || value === undefined) return '';
  const described = plan.tables.get(table)?.columns.find((c) => c.key === column);
  const target = described && depth < MOST_LINKS ? targetOf(described) : null;
  if (target !== null)
    return [value]
      .flat()
      .map((v) => {
        const linked = typeof v === 'number' ? cache.row(target, v) : null;
        const shown = plan.tables.get(target)?.shown;
        return (linked && shown && columnText(plan, cache, target, linked, shown, locale, depth + 1)) || `row ${String(v)}`;
      })
      .join(', ');
  return showAs(described?.type ?? 'text', value, { locale, decimals: described?.decimals ?? null, format: null });
}

/** A candidate of a list: its shown text and what stands beside it. */
export function candidateText(
  plan: Plan,
  field: PlanField,
  row: Row,
  cache: DataCache,
  locale: string,
): { text: string; beside: readonly string[] } {
  const source = field.definition.source;
  const table = field.choices?.table;
  if (source?.kind !== 'rows' || !table) {
    const whole = source?.kind === 'list' && source.level === null;
    return { text: String(row.label ?? row.value ?? ''), beside: whole ? [String(row.path ?? '')] : [] };
  }
  const read: ReadRow = (t, id) => cache.row(t, id) ?? null;
  const own = field.choices ? shownTextOf(field.choices, row, read) : null;
  const plain = source.show ? columnText(plan, cache, table, row, source.show, locale) : '';
  const beside = source.beside.map((c) => columnText(plan, cache, table, row, c, locale)).filter((t) => t !== '');
  return { text: own ?? (plain || `row ${row.id}`), beside };
}

/**
 * The candidate that is meant by a text: the only one that is shown so, else the only one that is stored so, else the only one beside
 * which it stands (a code). Case and accents do not matter. Takes the candidates on offer; gives what the field would hold, undefined
 * where none or several are meant. Cost: one shown text a candidate.
 */
export function choiceNamed(
  plan: Plan,
  field: PlanField,
  rows: readonly Row[],
  text: string,
  cache: DataCache,
  locale: string,
): Datum | undefined {
  const sought = foldText(text.trim());
  const texts = rows.map((row) => ({ row, ...candidateText(plan, field, row, cache, locale) }));
  for (const fits of [
    texts.filter((c) => foldText(c.text) === sought),
    texts.filter((c) => foldText(String(storedOf(field, c.row) as string)) === sought),
    texts.filter((c) => c.beside.some((b) => foldText(b) === sought)),
  ]) {
    if (fits.length === 1 && fits[0]) return storedOf(field, fits[0].row);
    if (fits.length) return undefined;
  }
  return undefined;
}
/** The texts of several choices in one: parted by semicolons, or by commas. */
export const textsOf = (field: PlanField, text: string): string[] =>
  isSeveral(field.definition.type)
    ? text
        .split(text.includes(';') ? ';' : ',')
        .map((t) => t.trim())
        .filter((t) => t !== '')
    : [text];

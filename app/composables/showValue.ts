import { type ReadRow, shownTextOf } from '~~/core/choices/shownText.ts';
import type { DataCache } from '~~/core/engine/cache.ts';
import { candidateText, rowText } from '~~/core/engine/named.ts';
import type { Plan, PlanField } from '~~/core/engine/plan.ts';
import type { Offer } from '~~/core/engine/state.ts';
import { decimalsFor } from '~~/core/form/fit.ts';
import type { Type } from '~~/core/values/typing.ts';
import { type Result, isFormulaError, isWaiting } from '~~/core/formula/errors.ts';
import { showAs } from '~~/core/values/kinds/index.ts';
import type { FieldFormat } from '~~/core/values/show.ts';
import type { Datum, Row } from '~~/core/values/types.ts';

export const LOCALE = 'en-GB';

/** A row as people know it: its shown column. */
export const rowLabel = (plan: Plan, cache: DataCache, table: string, id: number, column: string | null = null): string =>
  rowText(plan, cache, table, id, LOCALE, column);

/** A field's value for readers: choices by their label, numbers and dates in the reader's format. */
export function showValue(plan: Plan, cache: DataCache, field: PlanField, value: Datum, offer: Offer | null = null): string {
  if (value === null) return '';
  if (Array.isArray(value)) return (value as readonly Datum[]).map((v) => showValue(plan, cache, field, v, offer)).join(', ');
  const listed = field.choices?.options ?? (field.choices?.asks ? offer?.rows : null);
  if (listed) return String((listed.find((o) => o.value === value) ?? retiredOf(field, value))?.label ?? value);
  if (field.definition.type === 'links' && field.choices?.table && typeof value === 'number') return rowShown(plan, cache, field, value);
  if (field.type.kind === 'row' && typeof value === 'number') return rowShown(plan, cache, field, value);
  return showTyped(plan, cache, field.type, value, decimalsFor(field.definition, field.column), field.definition.format);
}

/** The option that a record holds although it is offered no more. */
export const retiredOf = (field: PlanField, value: Datum): Row | undefined => field.choices?.retired?.find((o) => o.value === value);

/** Any value of a known type for readers. */
export function showTyped(
  plan: Plan,
  cache: DataCache,
  type: Type,
  value: Datum,
  decimals: number | null = null,
  format: FieldFormat | null = null,
): string {
  if (type.kind === 'row' && typeof value === 'number') return rowLabel(plan, cache, type.table, value);
  if (value === null || typeof value !== 'object') return showPlain(type.kind, value, decimals, format);
  const of = type.kind === 'list' ? type.of : type;
  return value.map((v) => showTyped(plan, cache, of, v)).join(', ');
}
/** A value that stands for itself, and for no row, for readers; `kind` is what it is read as. */
export const showPlain = (kind: string, value: Datum, decimals: number | null = null, format: FieldFormat | null = null): string =>
  showAs(kind, value, { locale: LOCALE, decimals, format });
/** A moment as readers see it; nothing for none. */
export const showMoment = (at: string | null): string => showPlain('datetime', at);

/** What a formula gave, for readers: a value, "empty", an error's sentence or "waiting". */
export function showResult(plan: Plan, cache: DataCache, type: Type, result: Result): string {
  if (isFormulaError(result)) return result.message;
  if (isWaiting(result)) return 'waiting';
  if (result === null) return 'empty';
  const text = showTyped(plan, cache, type, result);
  return type.kind === 'text' ? `“${text}”` : text;
}

/** A row as a field shows it: by its own text where it has one, else by its shown column. */
function rowShown(plan: Plan, cache: DataCache, field: PlanField, id: number): string {
  const { source } = field.definition;
  const table = field.choices?.table;
  const row = table ? cache.row(table, id) : null;
  const text = row && field.choices ? shownTextOf(field.choices, row, readFrom(cache)) : null;
  if (text !== null) return text;
  const own = field.type.kind === 'row' ? field.type.table : null;
  return rowLabel(plan, cache, table ?? own ?? '', id, source?.kind === 'rows' ? source.show : null);
}
const readFrom =
  (cache: DataCache): ReadRow =>
  (table, id) =>
    cache.row(table, id) ?? null;

/** A candidate of a list: its shown text and what stands beside it. */
export function candidateTexts(plan: Plan, field: PlanField, row: Row, cache: DataCache): { text: string; beside: string } {
  const { text, beside } = candidateText(plan, field, row, cache, LOCALE);
  return { text, beside: beside.join(' · ') };
}

import { type Column, holdsRows } from '../model/tables.ts';
import { KINDS, type ValueKind } from '../values/kinds/index.ts';
import { fitProblem, fitValue } from '../form/fit.ts';
import type { Datum } from '../values/types.ts';
import { csvText } from './csv.ts';

/** A value of one column as a value of another: the value, or why it does not convert. */
export type Converted = { readonly ok: true; readonly value: Datum } | { readonly ok: false; readonly message: string };

/**
 * Converts a value between column types by way of its written form. Links are converted by the text their row is known
 * by: `shownOf` gives it for a row that the old column links to, `rowNamed` the row of the new target that a text names
 * (null for none or several). Numbers keep at most the new column's decimals.
 */
export function convertValue(
  from: Column,
  to: Column,
  value: Datum,
  shownOf: (id: number) => string,
  rowNamed: (text: string) => number | null,
): Converted {
  if (value === null) return { ok: true, value: null };
  const several = Array.isArray(value) ? (value as readonly Datum[]) : null;
  const write = (v: Datum): string => (holdsRows(from.type) && typeof v === 'number' ? shownOf(v) : csvText(from, v));
  const texts = several ? several.map(write) : [write(value)];
  const kind: ValueKind = KINDS[to.type];
  const unknown = (name: string): Converted => ({ ok: false, message: `There is no single row called “${name}”.` });
  if (kind.several) {
    const parts = several ? texts : (texts[0] ?? '').split(/\s*;\s*/).filter((t) => t !== '');
    if (!kind.rows) return { ok: true, value: parts };
    const ids = parts.map(rowNamed);
    const lost = parts.find((_, i) => ids[i] === null);
    return lost === undefined ? { ok: true, value: ids } : unknown(lost);
  }
  const text = texts.join('; ');
  if (kind.rows) {
    const id = rowNamed(text);
    return id === null ? unknown(text) : { ok: true, value: id };
  }
  const read = kind.made?.(from.type, value, texts) ?? kind.fromFile(text);
  if (!read.ok) return { ok: false, message: read.message };
  const problem = fitProblem(to, to, read.value);
  return problem === null ? { ok: true, value: fitValue(to, to, read.value) } : { ok: false, message: problem };
}

import type { Column } from '../form/tables.ts';
import { fitProblem, fitValue } from '../form/fit.ts';
import type { Datum } from '../values/types.ts';
import { readCell } from './columns.ts';
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
  const write = (v: Datum): string => (isLink(from) && typeof v === 'number' ? shownOf(v) : csvText(from, v));
  const texts = several ? several.map(write) : [write(value)];
  if (to.type === 'links' || to.type === 'choices') {
    const parts = several ? texts : (texts[0] ?? '').split(/\s*;\s*/).filter((t) => t !== '');
    if (to.type === 'choices') return { ok: true, value: parts };
    const ids = parts.map(rowNamed);
    const lost = parts.find((_, i) => ids[i] === null);
    return lost === undefined ? { ok: true, value: ids } : { ok: false, message: `No single row is known as “${lost}”.` };
  }
  const text = texts.join('; ');
  if (isLink(to)) {
    const id = rowNamed(text);
    return id === null ? { ok: false, message: `No single row is known as “${text}”.` } : { ok: true, value: id };
  }
  if (to.type === 'file') return { ok: false, message: 'A file has to be sent; other values cannot become one.' };
  if (to.type === 'json')
    return { ok: true, value: from.type === 'json' ? value : JSON.stringify(several ? texts : typeof value === 'string' ? text : value) };
  // a date-time becomes a date by leaving its time out, a date a date-time by midnight
  const plain =
    from.type === 'datetime' && to.type === 'date'
      ? text.slice(0, 10)
      : from.type === 'datetime' && to.type === 'time'
        ? text.slice(11)
        : text;
  const read = readCell(to.type, plain);
  if (!read.ok) return { ok: false, message: read.message };
  const problem = fitProblem({ type: to.type, label: to.label, decimals: to.decimals }, to, read.value);
  return problem === null
    ? { ok: true, value: fitValue({ type: to.type, decimals: to.decimals }, to, read.value) }
    : { ok: false, message: problem };
}

const isLink = (c: Column): boolean => c.type === 'link' || c.type === 'links' || c.type === 'person';

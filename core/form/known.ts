import { type Field, type Form, fieldOrder } from './definition.ts';

/** Labels of fields that people know a record by, the likeliest first. */
const CALLED = [/\b(name|title)\b/i, /\b(code|number|no|reference|ref)\b/i, /\b(subject|task|label)\b/i];

function rank(field: Field): number {
  const named = CALLED.findIndex((c) => c.test(field.label));
  if (field.type === 'text') return named >= 0 ? named : field.value ? 5 : 6;
  if (field.type === 'number') return named >= 0 ? 4 : 9;
  return field.type === 'link' || field.type === 'choice' || field.type === 'person' ? 7 : 8;
}

/**
 * The column that records of a form are most likely known by: a text called name, title or code, else a text that is computed, else
 * the first text, else what is chosen first. Null when nothing of the form is saved. The earlier of two as likely wins.
 */
export function likelyKnown(form: Form): string | null {
  let best: { column: string; rank: number } | null = null;
  for (const key of fieldOrder(form)) {
    const field = form.fields[key];
    if (!field || field.column === null) continue;
    const at = rank(field);
    if (!best || at < best.rank) best = { column: field.column, rank: at };
  }
  return best?.column ?? null;
}

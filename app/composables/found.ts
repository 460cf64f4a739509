import type { Answer } from '~~/core/contract/define.ts';
import type { contract } from '~~/core/contract/index.ts';
import type { Datum } from '~~/core/values/types.ts';

/* Values of records as lists of what is proposed, written or found show them. */

type Page = Pick<Answer<typeof contract.backfills.page>, 'fields' | 'linked'>;

/** A value of a field as people read it; `empty` where there is none. */
export function foundText(page: Page | null, path: string, value: Datum): string {
  const field = page?.fields[path];
  if (value === null) return 'empty';
  if (!field?.column) return String(value);
  const label = field.options[String(value)];
  return label ?? (cellText(field.column, value, page!.linked) || 'empty');
}
/** What a field is called, with its lines and the place among them where it is one of lines. */
export function foundLabel(page: Page | null, path: string, place: number | null): string {
  const field = page?.fields[path];
  return field ? (field.lines ? `${field.lines} ${place ?? ''}: ${field.label}` : field.label) : path;
}

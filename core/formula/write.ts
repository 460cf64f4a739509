import { canonical, plainNumber } from '../values/decimal.ts';
import type { Datum } from '../values/types.ts';
import type { Type } from '../values/typing.ts';

/**
 * A value as the text that `&` and TEXTJOIN make of it: numbers in plain digits with a point, dates as ISO,
 * a date-time with a space, yes/no as TRUE and FALSE. TEXT and TEMPLATE write for readers; this is the exact form.
 */
export function writeOut(value: Datum, type: Type): string {
  if (value === null) return '';
  if (typeof value === 'number') return plainNumber(canonical(value));
  if (typeof value === 'boolean') return value ? 'TRUE' : 'FALSE';
  if (typeof value === 'string') return type.kind === 'datetime' ? value.replace('T', ' ') : value;
  const of = type.kind === 'list' ? type.of : type;
  return value.map((item) => writeOut(item, of)).join(', ');
}

import { canonical } from '../values/decimal.ts';
import { foldText } from '../values/text.ts';
import type { Datum } from '../values/types.ts';
import { type Type, isTextual } from '../values/typing.ts';

/*
 * When two values are equal in the language: texts without regard to case and to how accents are composed, numbers to 15
 * digits, a date and the midnight of its day. One rule for `=`, IN, SWITCH, UNIQUE, MATCH and criteria.
 */

export const isDay = (t: Type): boolean => t.kind === 'date' || t.kind === 'datetime';

/** A date stands for the midnight of its day wherever it meets a date-time. */
export const midnightOf = (moment: string): string => (moment.length === 10 ? `${moment}T00:00:00` : moment);

/** What stands for a value where values are told apart by equality, as `=` has it: two that are equal have the same. */
export function keyOf(t: Type): (x: Datum) => Datum {
  if (isTextual(t)) return (x) => (typeof x === 'string' ? foldText(x) : x);
  if (isDay(t)) return (x) => (typeof x === 'string' ? midnightOf(x) : x);
  return (x) => (typeof x === 'number' ? canonical(x) : x);
}

import { isIsoDate, isIsoDateTime, isIsoTime } from '../../values/dates.ts';
import { canonical, compareNumbers } from '../../values/decimal.ts';
import { isNumeral } from '../../values/read.ts';
import { compareText } from '../../values/text.ts';
import type { Datum } from '../../values/types.ts';
import { keyOf, midnightOf } from '../equality.ts';
import { type Type, isTextual } from '../../values/typing.ts';
import { wildcardMatch } from './wildcard.ts';

/*
 * Criteria of COUNTIF and its kin (OpenFormula 4.11.8): a value that items equal, or a text that begins with a comparison.
 * What stands behind the comparison is read as the items are: numbers with numbers, dates with dates, in the notation in
 * which values are held and written (2026-03-01, 09:30). Texts may hold wildcards.
 */
export const CRITERION =
  'A criterion is a value, or a text like ">5", ">=2026-03-01", "<>done" or "wet*". It is compared with items of its own kind only.';

type Operator = '<=' | '>=' | '<>' | '<' | '>' | '=';
const TESTS: Readonly<Record<Operator, (order: number) => boolean>> = {
  '<=': (o) => o <= 0,
  '>=': (o) => o >= 0,
  '<>': (o) => o !== 0,
  '<': (o) => o < 0,
  '>': (o) => o > 0,
  '=': (o) => o === 0,
};

export const itemTypeOf = (t: Type | undefined): Type => (t?.kind === 'list' ? t.of : (t ?? { kind: 'unknown' }));

/** The test a criterion makes of items of a type. Empty items, and an empty criterion, meet nothing. */
export function criterionFor(criterion: Datum, criterionType: Type, items: Type): (item: Datum) => boolean {
  if (criterion === null) return () => false;
  // a date or a choice of the form is a value; only what is written as a text may begin with a comparison
  if (typeof criterion !== 'string' || !isTextual(criterionType)) {
    const [key, sought] = [keyOf(items), keyOf(criterionType)(criterion)];
    return (item) => item !== null && key(item) === sought;
  }
  const [, sign, rest = ''] = /^(<=|>=|<>|<|>|=)?(.*)$/s.exec(criterion) ?? [];
  const operator = (sign ?? '=') as Operator;
  const order = orderTo(rest.trim(), items);
  if (order) return (item) => item !== null && TESTS[operator](order(item));
  if (!isTextual(items) && items.kind !== 'unknown' && items.kind !== 'empty') return (item) => item !== null && operator === '<>';
  if (operator === '=' || operator === '<>')
    return (item) => item !== null && (typeof item === 'string' && wildcardMatch(rest, item)) === (operator === '=');
  return (item) => typeof item === 'string' && TESTS[operator](compareText(item, rest));
}

/** How items of a type that is no text are ordered against what is written; null when it does not spell such a value. */
function orderTo(written: string, items: Type): ((item: Datum) => number) | null {
  switch (items.kind) {
    case 'number': {
      const percent = written.endsWith('%');
      const digits = percent ? written.slice(0, -1) : written;
      if (!isNumeral(digits)) return null;
      const n = canonical(Number(digits) / (percent ? 100 : 1));
      return (item) => compareNumbers(item as number, n);
    }
    case 'date':
    case 'datetime': {
      const moment = written.replace(' ', 'T').replace(/T(\d\d:\d\d)$/, 'T$1:00');
      if (!isIsoDate(moment) && !isIsoDateTime(moment)) return null;
      return (item) => byText(midnightOf(item as string), midnightOf(moment));
    }
    case 'time': {
      const time = /^\d\d:\d\d$/.test(written) ? `${written}:00` : written;
      return isIsoTime(time) ? (item) => byText(item as string, time) : null;
    }
    case 'yesno': {
      const word = written.toUpperCase();
      return word === 'TRUE' || word === 'FALSE' ? (item) => Number(item) - Number(word === 'TRUE') : null;
    }
    default:
      return null;
  }
}
const byText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

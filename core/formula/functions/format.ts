import { partsOfDate, dateToDays, timeToSeconds, weekdayIndex } from '../../values/dates.ts';
import { canonical, multiply, plainNumber, roundTo } from '../../values/decimal.ts';

/*
 * Format codes of TEXT (OpenFormula 6.20.23 leaves them to the format language of spreadsheets; these are the usual
 * ones): digits 0 # ?, point, group comma, %, sections by ;, quoted words, and d m y h s for dates and times, in English.
 */

const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

interface Token {
  readonly kind: 'literal' | 'code';
  readonly text: string;
}
/** Quoted words, characters after a backslash, and the rest one by one. */
function tokensOf(format: string): Token[] {
  const tokens: Token[] = [];
  for (const m of format.matchAll(/"([^"]*)"?|\\(.)|(am\/pm|a\/p|y+|m+|d+|h+|s+)|([\s\S])/gi)) {
    if (m[1] !== undefined) tokens.push({ kind: 'literal', text: m[1] });
    else if (m[2] !== undefined) tokens.push({ kind: 'literal', text: m[2] });
    else tokens.push({ kind: 'code', text: m[0] });
  }
  return tokens;
}
function sectionsOf(format: string): Token[][] {
  const sections: Token[][] = [[]];
  for (const t of tokensOf(format)) {
    if (t.kind === 'code' && t.text === ';') sections.push([]);
    else sections.at(-1)?.push(t);
  }
  return sections;
}

/** A number by a format code; null when the code is for dates or is none. */
export function formatNumber(n: number, format: string): string | null {
  const sections = sectionsOf(format);
  const [first = []] = sections;
  let section = first;
  let value = n;
  if (n < 0 && sections[1]?.length) {
    section = sections[1];
    value = -n;
  } else if (n === 0 && sections[2]?.length) section = sections[2];
  return byDigits(value, section);
}

const DIGIT = /^[0#?]$/;
function byDigits(value: number, section: readonly Token[]): string | null {
  const codes = section.filter((t) => t.kind === 'code');
  if (codes.some((t) => /^[ymdhs]/i.test(t.text))) return null;
  const isDigit = (t: Token | undefined): boolean => t?.kind === 'code' && DIGIT.test(t.text);
  const firstAt = section.findIndex((t) => isDigit(t) || (t.kind === 'code' && t.text === '.'));
  if (firstAt < 0) return section.map((t) => t.text).join('');
  let lastAt = firstAt;
  section.forEach((t, i) => (lastAt = isDigit(t) || (t.kind === 'code' && t.text === '.' && i >= firstAt) ? i : lastAt));
  const pattern = section.slice(firstAt, lastAt + 1).map((t) => t.text).join(''); // prettier-ignore
  // commas behind the last digit divide by a thousand each
  let after = lastAt + 1;
  let scaled = value;
  while (section[after]?.kind === 'code' && section[after]?.text === ',') {
    scaled = scaled / 1000;
    after++;
  }
  const percent = codes.filter((t) => t.text === '%').length;
  for (let i = 0; i < percent; i++) scaled = multiply(scaled, 100);
  const [whole = '', fraction = ''] = pattern.split('.');
  const places = [...fraction].filter((c) => DIGIT.test(c)).length;
  const least = [...fraction].filter((c) => c === '0').length;
  const rounded = roundTo(canonical(scaled), Math.min(places, 15));
  const [digits = '0', decimals = ''] = plainNumber(Math.abs(rounded)).split('.');
  let shownDecimals = decimals.padEnd(places, '0').slice(0, places);
  while (shownDecimals.length > least && shownDecimals.endsWith('0')) shownDecimals = shownDecimals.slice(0, -1);
  const wholeLeast = [...whole].filter((c) => c === '0').length;
  let shownWhole = digits === '0' && wholeLeast === 0 ? '' : digits.padStart(wholeLeast, '0');
  if (/[0#?],[0#?,]*/.test(whole)) shownWhole = shownWhole.replace(/\B(?=(\d{3})+(?!\d))/g, ',');
  const number = shownWhole + (pattern.includes('.') && (shownDecimals !== '' || fraction !== '') ? `.${shownDecimals}` : '');
  const before = section.slice(0, firstAt).map((t) => t.text).join(''); // prettier-ignore
  const behind = section.slice(after).map((t) => t.text).join(''); // prettier-ignore
  return `${rounded < 0 ? '-' : ''}${before}${number}${behind}`;
}

/** A date (`YYYY-MM-DD`), time (`HH:MM:SS`) or date-time by a format code. */
export function formatMoment(value: string, format: string): string {
  const [section = []] = sectionsOf(format);
  const day = value.includes('-') ? value.slice(0, 10) : null;
  const time = value.includes(':') ? value.slice(-8) : '00:00:00';
  const parts = day ? partsOfDate(day) : { year: 1899, month: 12, day: 30 };
  const weekday = DAYS[weekdayIndex(dateToDays(day ?? '1899-12-30'))] as string;
  const month = MONTHS[parts.month - 1] as string;
  const seconds = timeToSeconds(time);
  const [h, m, s] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60] as [number, number, number];
  const half = section.some((t) => t.kind === 'code' && /^a/i.test(t.text));
  const two = (n: number, wide: boolean): string => (wide ? String(n).padStart(2, '0') : String(n));
  const letters = section.map((t) => (t.kind === 'code' && /^[ymdhs]/i.test(t.text) ? (t.text[0] as string).toLowerCase() : ''));
  return section
    .map(({ kind, text }, i) => {
      if (kind === 'literal') return text;
      const wide = text.length > 1;
      switch (text[0]?.toLowerCase()) {
        case 'y':
          return text.length > 2 ? String(parts.year).padStart(4, '0') : String(parts.year % 100).padStart(2, '0');
        case 'd':
          return text.length > 3 ? weekday : text.length === 3 ? weekday.slice(0, 3) : two(parts.day, wide);
        case 'h':
          return two(half ? ((h + 11) % 12) + 1 : h, wide);
        case 's':
          return two(s, wide);
        case 'm': {
          // minutes stand after hours or before seconds
          const before = letters.slice(0, i).filter(Boolean).at(-1);
          const behind = letters.slice(i + 1).find(Boolean);
          if (text.length <= 2 && (before === 'h' || behind === 's')) return two(m, wide);
          return text.length > 3 ? month : text.length === 3 ? month.slice(0, 3) : two(parts.month, wide);
        }
        case 'a':
          return /^am\/pm$/i.test(text) ? (h < 12 ? 'AM' : 'PM') : /^a\/p$/i.test(text) ? (h < 12 ? 'A' : 'P') : text;
        default:
          return text;
      }
    })
    .join('');
}

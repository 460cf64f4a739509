import { partsOfDate, dateToDays, timeToSeconds, weekdayIndex } from '../../values/dates.ts';
import { canonical, divide, multiply, plainNumber, power, roundTo } from '../../values/decimal.ts';

/*
 * Format codes of TEXT (OpenFormula 6.20.23 leaves them to the format language of spreadsheets; these are the usual
 * ones), in English. A code that is not among them is refused: never written as something else.
 */
export const FORMAT_DETAIL =
  'Digits: 0 always, # only where needed, ? as a space; a comma groups thousands, one behind the digits divides by 1,000; % multiplies by 100; 0.00E+00 writes an exponent; General as it is; sections by ; are for positive, negative and zero. Dates: d dd ddd dddd, m mm mmm mmmm, yy yyyy, h hh, mm after h, ss, AM/PM; [h], [m] and [s] count on beyond a day. Words stand in quotation marks. Fractions and colours are refused.';

/** The text, or why it cannot be written so, as a sentence. */
export type Formatted = { readonly ok: true; readonly text: string } | { readonly ok: false; readonly message: string };
const written = (text: string): Formatted => ({ ok: true, text });
const refused = (message: string): Formatted => ({ ok: false, message });
const LONGEST_FORMAT = 255;

const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

interface Token {
  readonly kind: 'literal' | 'code';
  readonly text: string;
}
/** Quoted words, characters after a backslash, codes of several letters, and the rest one by one. */
function tokensOf(format: string): Token[] {
  const tokens: Token[] = [];
  const codes = /"([^"]*)"?|\\(.)|(\[[^\]]*\]?|general|e[+-]|am\/pm|a\/p|y+|m+|d+|h+|s+)|([\s\S])/giu;
  for (const m of format.matchAll(codes)) {
    const literal = m[1] ?? m[2];
    tokens.push(literal === undefined ? { kind: 'code', text: m[0] } : { kind: 'literal', text: literal });
  }
  return tokens;
}
const sectionsKnown = new Map<string, Token[][]>();
/** A form has a handful of formats, and writes with them again and again; one that makes them up is no reason to keep them all. */
const MOST_FORMATS = 200;
function sectionsOf(format: string): readonly (readonly Token[])[] {
  let sections = sectionsKnown.get(format);
  if (!sections) {
    if (sectionsKnown.size >= MOST_FORMATS) sectionsKnown.clear();
    sectionsKnown.set(format, (sections = sectionsRead(format)));
  }
  return sections;
}
function sectionsRead(format: string): Token[][] {
  const sections: Token[][] = [[]];
  for (const t of tokensOf(format)) {
    if (t.kind === 'code' && t.text === ';') sections.push([]);
    else sections.at(-1)?.push(t);
  }
  return sections;
}
const isCode = (t: Token | undefined, pattern: RegExp): boolean => t?.kind === 'code' && pattern.test(t.text);
const DIGIT = /^[0#?]$/;
const MOMENT = /^(y+|m+|d+|h+|s+|am\/pm|a\/p)$/i;
const ELAPSED = /^\[(h+|m+|s+)\]$/i;
const literals = (tokens: readonly Token[]): string => tokens.map((t) => t.text).join('');

/** A number by a format code. A number of days can be written as hours, minutes and seconds: `[h]:mm`. */
export function formatNumber(n: number, format: string): Formatted {
  if (format.length > LONGEST_FORMAT) return refused(`A format has at most ${LONGEST_FORMAT} characters.`);
  const sections = sectionsOf(format);
  let [section = []] = sections;
  let value = canonical(n);
  if (value < 0 && sections[1]?.length) {
    section = sections[1];
    value = -value;
  } else if (value === 0 && sections[2]?.length) section = sections[2];
  if (section.some((t) => isCode(t, ELAPSED))) return elapsed(Math.round(multiply(value, 86_400)), section);
  const odd = section.find((t) => isCode(t, /^\[|^[@*_/]$/));
  if (odd) return refused(odd.text === '/' ? 'Numbers cannot be written as fractions.' : `“${odd.text}” is no format code here; put words in quotation marks.`); // prettier-ignore
  if (section.some((t) => isCode(t, MOMENT))) return refused('This format is for dates; the value is a number.');
  const general = section.findIndex((t) => isCode(t, /^general$/i));
  if (general >= 0) {
    if (section.some((t) => isCode(t, /^[0#?.%]$/))) return refused('General stands alone: other digits cannot stand beside it.');
    return written(`${value < 0 ? '-' : ''}${literals(section.slice(0, general))}${plainNumber(Math.abs(value))}${literals(section.slice(general + 1))}`); // prettier-ignore
  }
  const exponent = section.findIndex((t) => isCode(t, /^e[+-]$/i));
  return exponent >= 0 ? scientific(value, section, exponent) : byDigits(value, section);
}

/** The places of the digits of a section: where they begin and end, and where the point is (at the end when there is none). */
function layoutOf(section: readonly Token[]): { first: number; last: number; point: number } {
  const first = section.findIndex((t) => isCode(t, /^[0#?.]$/));
  const last = section.findLastIndex((t) => isCode(t, /^[0#?.]$/));
  const point = section.findIndex((t) => isCode(t, /^\.$/));
  return { first, last, point: point < 0 ? last + 1 : point };
}
const digitsAmong = (tokens: readonly Token[]): number => tokens.filter((t) => isCode(t, DIGIT)).length;

function byDigits(value: number, section: readonly Token[]): Formatted {
  const { first, last, point } = layoutOf(section);
  if (first < 0) return written(literals(section));
  if (section.slice(point + 1, last + 1).some((t) => isCode(t, /^\.$/))) return refused('A number has one decimal point.');
  const whole = section.slice(first, point);
  const fraction = section.slice(point + 1, last + 1);
  // commas behind the last digit, of the whole part or of all, divide by a thousand each
  let after = last + 1;
  while (isCode(section[after], /^,$/)) after++;
  const trailing = whole.length - 1 - whole.findLastIndex((t) => isCode(t, DIGIT));
  const scaling = after - last - 1 + whole.slice(whole.length - trailing).filter((t) => isCode(t, /^,$/)).length;
  const percent = section.filter((t) => isCode(t, /^%$/)).length;
  const scaled = divide(multiply(value, power(100, percent)), power(1000, scaling));
  const rounded = roundTo(scaled, Math.min(digitsAmong(fraction), 300));
  if (!Number.isFinite(rounded)) return refused('The number is too large to be written so.');
  const [digits = '0', decimals = ''] = plainNumber(Math.abs(rounded)).split('.');
  const number = wholePart(whole, digits) + (point <= last ? `.${fractionPart(fraction, decimals)}` : '');
  return written(`${rounded < 0 ? '-' : ''}${literals(section.slice(0, first))}${number}${literals(section.slice(after))}`);
}

/** The digits before the point, put into their places from the right; what stands between the places is kept. */
function wholePart(tokens: readonly Token[], digits: string): string {
  const places = tokens.map((t) => isCode(t, DIGIT));
  const [leftmost, rightmost] = [places.indexOf(true), places.lastIndexOf(true)];
  const grouped = tokens.some((t, i) => isCode(t, /^,$/) && i > leftmost && i < rightmost);
  const out: string[] = [];
  let left = digits === '0' ? '' : digits;
  let count = 0;
  const put = (digit: string): void => {
    if (grouped && count > 0 && count % 3 === 0) out.unshift(',');
    out.unshift(digit);
    count++;
  };
  for (let i = tokens.length - 1; i >= 0; i--) {
    const { kind, text } = tokens[i] as Token;
    if (kind === 'literal') out.unshift(text);
    else if (!DIGIT.test(text)) {
      if (text !== ',') out.unshift(text);
    } else if (left !== '') {
      put(left.at(-1) as string);
      left = left.slice(0, -1);
      for (; i === leftmost && left !== ''; left = left.slice(0, -1)) put(left.at(-1) as string);
    } else if (text === '0') put('0');
    else if (text === '?') out.unshift(' ');
  }
  return out.join('');
}

/** The decimals in their places from the left; those that need not stand and are 0 at the end are left out. */
function fractionPart(tokens: readonly Token[], decimals: string): string {
  const places = digitsAmong(tokens);
  let shown = decimals.padEnd(places, '0').slice(0, places);
  const codes = tokens.filter((t) => isCode(t, DIGIT)).map((t) => t.text);
  let keep = places;
  while (keep > 0 && shown[keep - 1] === '0' && codes[keep - 1] !== '0') keep--;
  shown = shown.slice(0, keep);
  let at = 0;
  let out = '';
  for (const { kind, text } of tokens) {
    if (kind === 'literal' || !DIGIT.test(text)) out += text === ',' && kind === 'code' ? '' : text;
    else {
      out += shown[at] ?? (text === '?' ? ' ' : '');
      at++;
    }
  }
  return out;
}

/** `0.00E+00`: with several places before the point the exponent goes by as many. */
function scientific(value: number, section: readonly Token[], at: number): Formatted {
  const mantissa = section.slice(0, at);
  const { first, point } = layoutOf(mantissa);
  const step = first < 0 ? 0 : digitsAmong(mantissa.slice(first, point));
  const width = section.slice(at + 1).findIndex((t) => !isCode(t, /^[0#?]$/));
  const digits = section.slice(at + 1, width < 0 ? undefined : at + 1 + width);
  if (step < 1 || !digits.length) return refused('An exponent needs digits before it and behind it, as in 0.00E+00.');
  const places = digitsAmong(mantissa.slice(point + 1));
  const [coefficient = '0', power10 = '0'] = value.toExponential().split('e');
  let exponent = value === 0 ? 0 : Math.floor(Number(power10) / step) * step;
  const shifted = (): number => roundTo(Number(`${coefficient}e${Number(power10) - exponent}`), places);
  // rounding may have made 9.99 ten
  if (Math.abs(shifted()) >= 10 ** step) exponent += step;
  const body = byDigits(shifted(), mantissa);
  if (!body.ok) return body;
  const sign = exponent < 0 ? '-' : section[at]?.text[1] === '+' ? '+' : '';
  const power = String(Math.abs(exponent)).padStart(digits.filter((t) => t.text === '0').length, '0');
  return written(`${body.text}${section[at]?.text[0] ?? 'E'}${sign}${power}${literals(section.slice(at + 1 + digits.length))}`);
}

/** A length of time in seconds: the bracketed unit counts on, smaller ones stand beside it. */
function elapsed(seconds: number, section: readonly Token[]): Formatted {
  const total = Math.abs(seconds);
  const two = (n: number, letters: number): string => String(n).padStart(letters > 1 ? 2 : 1, '0');
  let out = '';
  for (const { kind, text } of section) {
    const unit = /^\[?([hms])(?:\1)*\]?$/i.exec(text)?.[1]?.toLowerCase();
    if (kind === 'literal' || (!unit && !/^[0#?.%a-z[]/i.test(text))) out += text;
    else if (!unit) return refused(`“${text}” cannot stand beside elapsed time.`);
    else {
      const bracketed = text.startsWith('[');
      const letters = text.length - (bracketed ? 2 : 0);
      if (unit === 'h') out += two(bracketed ? Math.floor(total / 3600) : Math.floor(total / 3600) % 24, letters);
      else if (unit === 'm') out += two(bracketed ? Math.floor(total / 60) : Math.floor(total / 60) % 60, letters);
      else out += two(bracketed ? total : total % 60, letters);
    }
  }
  return written(`${seconds < 0 ? '-' : ''}${out}`);
}

/** A date (`YYYY-MM-DD`), time (`HH:MM:SS`) or date-time by a format code. */
export function formatMoment(value: string, format: string): Formatted {
  if (format.length > LONGEST_FORMAT) return refused(`A format has at most ${LONGEST_FORMAT} characters.`);
  const [section = []] = sectionsOf(format);
  if (section.some((t) => isCode(t, ELAPSED)))
    return value.includes('-')
      ? refused('Hours that count on beyond a day are those of a time, or of a number of days.')
      : elapsed(timeToSeconds(value), section);
  const odd = section.find((t) => isCode(t, /^\[|^[@*_]$|^general$|^e[+-]$/i));
  if (odd) return refused(`“${odd.text}” is no format code for a date or time; put words in quotation marks.`);
  if (section.some((t) => isCode(t, DIGIT))) return refused('This format is for numbers; the value is a date or time.');
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
  const text = section
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
  return written(text);
}

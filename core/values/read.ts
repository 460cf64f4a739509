import { isIsoDate } from './dates.ts';
import { MAX_NUMBER, SIGNIFICANT_DIGITS, canonical } from './decimal.ts';
import { inQuotes } from './text.ts';

/** What a person typed, read as a value: the value, or a sentence that says what is wrong. */
export type Read<T> = { readonly ok: true; readonly value: T | null } | { readonly ok: false; readonly message: string };

const good = <T>(value: T | null): Read<T> => ({ ok: true, value });
const bad = (message: string): { ok: false; message: string } => ({ ok: false, message });

/** Whether the text is digits with a point for decimals, perhaps a sign and an exponent. One way to read each: linear. */
export const isNumeral = (text: string): boolean => /^[+-]?(\d+(\.\d*)?|\.\d+)(e[+-]?\d+)?$/i.test(text);

/** Most numbers of most files: there is nothing to tell apart in them. */
const PLAIN_NUMBER = /^-?\d{1,8}(?:\.\d{1,7})?$/;
/**
 * Reads a number as people and files write it: point or comma as the decimal sign, spaces, apostrophes or the other
 * sign between thousands. Where a single sign could be either (1,234), it is a decimal sign unless exactly three
 * digits follow and it is a comma. Digits beyond the 15 that are kept are refused; with `round`, those after the decimal
 * sign are rounded away (files hold the noise of binary fractions), those before it still refused.
 */
export function readNumber(text: string, round = false): Read<number> {
  if (PLAIN_NUMBER.test(text)) return good(canonical(Number(text)));
  let s = text
    .trim()
    .replace(/[\u2212\u2013]/g, '-')
    .replace(/[\s\u00a0\u202f']/g, '');
  if (s === '') return good<number>(null);
  const lastComma = s.lastIndexOf(',');
  const lastPoint = s.lastIndexOf('.');
  if (lastComma >= 0 && lastPoint >= 0) {
    s = lastComma > lastPoint ? s.replaceAll('.', '').replace(',', '.') : s.replaceAll(',', '');
  } else if (lastComma >= 0) {
    const grouped = /^[+-]?\d{1,3}(,\d{3})+$/.test(s);
    s = grouped ? s.replaceAll(',', '') : s.replace(',', '.');
  } else if (/^[+-]?\d{1,3}(\.\d{3}){2,}$/.test(s)) s = s.replaceAll('.', '');
  if (!isNumeral(s)) return bad(`${inQuotes(text.trim())} is not a number.`);
  const n = canonical(Number(s));
  if (!Number.isFinite(n) || Math.abs(n) > MAX_NUMBER) return bad(`${inQuotes(text.trim())} is too large.`);
  const kept = significantDigits(s);
  const lost = round ? /^[+-]?0*(\d*)/.exec(s)?.[1]?.replace(/0+$/, '').length : kept;
  return (lost ?? 0) > SIGNIFICANT_DIGITS
    ? bad(`${inQuotes(text.trim())} has ${kept} digits; only ${SIGNIFICANT_DIGITS} are kept. Keep such a number as text.`)
    : good(n);
}

/** How many digits a numeral has that mean something: without leading zeros, and without zeros at the end. */
const significantDigits = (numeral: string): number =>
  numeral.replace(/e.*$/i, '').replace(/\D/g, '').replace(/^0+/, '').replace(/0+$/, '').length;

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const iso = (y: string | number, m: string | number, d: string | number): string =>
  `${String(y).padStart(4, '0')}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`;

/** Reads a date: 2026-03-01, 1.3.2026, 1/3/2026 (day first), 1 Mar 2026. A time of day behind it is an error. */
export function readDate(text: string): Read<string> {
  const s = text.trim();
  if (s === '') return good<string>(null);
  if (isIsoDate(s)) return good(s);
  let candidate: string | null = null;
  const isoMatch = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(s);
  const dayFirst = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/.exec(s);
  const named = /^(\d{1,2})\.?\s+([a-z]{3})[a-z]*\.?\s+(\d{4})$/i.exec(s);
  if (isoMatch) candidate = iso(isoMatch[1] ?? '', isoMatch[2] ?? '', isoMatch[3] ?? '');
  else if (dayFirst) candidate = iso(dayFirst[3] ?? '', dayFirst[2] ?? '', dayFirst[1] ?? '');
  else if (named) {
    const month = MONTHS.indexOf((named[2] ?? '').toLowerCase()) + 1;
    if (month) candidate = iso(named[3] ?? '', month, named[1] ?? '');
  }
  if (candidate === null) return bad(`${inQuotes(s)} is not a date. Write it as 2026-03-01 or 1.3.2026.`);
  return isIsoDate(candidate) ? good(candidate) : bad(`There is no such day as ${inQuotes(s)}.`);
}

/** Reads a time: 9:30, 09:30:15, 9.30, 930. */
export function readTime(text: string): Read<string> {
  const s = text.trim();
  if (s === '') return good<string>(null);
  const match = /^(\d{1,2})[:.]?(\d{2})(?:[:.]?(\d{2}))?$/.exec(s);
  const [h, m, sec] = [Number(match?.[1]), Number(match?.[2]), Number(match?.[3] ?? 0)];
  if (!match || h > 23 || m > 59 || sec > 59) return bad(`${inQuotes(s)} is not a time. Write it as 09:30.`);
  return good([h, m, sec].map((n) => String(n).padStart(2, '0')).join(':'));
}

/** Reads a date and time with a space or T between them; a date alone is midnight. */
export function readDateTime(text: string): Read<string> {
  const s = text.trim();
  if (s === '') return good<string>(null);
  const split = s.search(/[T ](?=\d{1,2}[:.]\d)/);
  const date = readDate(split < 0 ? s : s.slice(0, split));
  const time = split < 0 ? good('00:00:00') : readTime(s.slice(split + 1));
  if (!date.ok) return date;
  if (!time.ok) return time;
  return good(`${date.value ?? ''}T${time.value ?? ''}`);
}

const YES = new Set(['yes', 'y', 'true', '1', 'x']);
const NO = new Set(['no', 'n', 'false', '0']);
/** Reads yes/no: yes, y, true, 1, x and no, n, false, 0 in any case. */
export function readYesNo(text: string): Read<boolean> {
  const s = text.trim().toLowerCase();
  if (s === '') return good<boolean>(null);
  if (YES.has(s)) return good(true);
  if (NO.has(s)) return good(false);
  return bad(`${inQuotes(text.trim())} is neither yes nor no.`);
}

import { plainNumber, roundTo } from './decimal.ts';

/**
 * Values as readers see them. `locale` is the reader's; what is stored stays ISO. Formatters are made once per locale.
 */
export interface ShowOptions {
  readonly locale: string;
  readonly decimals?: number | null;
  /** what a field asks for, beside how the workspace writes */
  readonly format?: FieldFormat | null | undefined;
}
/** How the values of one field are shown, where that is not as everywhere: days, moments, times, numbers. */
export const FIELD_FORMATS = ['long', 'weekday', 'iso', 'seconds', 'plain', 'grouped'] as const;
export type FieldFormat = (typeof FIELD_FORMATS)[number];
/** The formats that suit a type of column. */
export const FORMATS_OF: Readonly<Record<string, readonly FieldFormat[]>> = {
  date: ['long', 'weekday', 'iso'],
  datetime: ['long', 'weekday', 'iso', 'seconds'],
  time: ['seconds'],
  number: ['plain', 'grouped'],
};

/** How days and numbers are written, where a workspace says so; until then as its locale has it. */
export interface Formats {
  readonly dates: 'dayFirst' | 'monthFirst' | 'iso';
  readonly grouping: 'comma' | 'space' | 'apostrophe' | 'none';
}
let formats: Formats = { dates: 'dayFirst', grouping: 'comma' };
/** Sets how readers of this workspace see days and numbers. What is stored and typed is not changed by it. */
export const setFormats = ({ dates, grouping }: Formats): void => void (formats = { dates, grouping });
const GROUPING: Readonly<Record<Formats['grouping'], string>> = { comma: ',', space: '\u202f', apostrophe: '’', none: '' };

type Grouping = 'min2' | 'always' | false;
const MOST_SHOWN = 15;
const numberFormats = new Map<string, Intl.NumberFormat>();
function numberFormat(locale: string, decimals: number | null, grouping: Grouping): Intl.NumberFormat {
  const key = `${locale} ${decimals ?? ''} ${grouping}`;
  let format = numberFormats.get(key);
  if (!format) {
    const fraction =
      decimals === null ? { maximumFractionDigits: MOST_SHOWN } : { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
    const digits = { ...fraction, useGrouping: grouping } as Intl.NumberFormatOptions;
    numberFormats.set(key, (format = new Intl.NumberFormat(locale, digits)));
  }
  return format;
}

const isEnglish = (locale: string): boolean => locale === 'en-GB' || locale === 'en-US';
/** A number as English writes it: the first use of Intl's numbers costs a page 40 ms, and nearly all pages show one. */
function numberInEnglish(n: number, decimals: number | null, grouping: Grouping): string {
  const rounded = roundTo(n, decimals ?? MOST_SHOWN);
  const [whole = '', fraction = ''] = plainNumber(Math.abs(rounded)).split('.');
  const isGrouped = grouping !== false && whole.length >= (grouping === 'min2' ? 5 : 4);
  const places = fraction.padEnd(decimals ?? 0, '0');
  return `${rounded < 0 ? '-' : ''}${isGrouped ? whole.replace(/\B(?=(\d{3})+$)/g, ',') : whole}${places && '.'}${places}`;
}

/** A number with the reader's separators and a true minus sign. */
export function showNumber(n: number, { locale, decimals = null, format = null }: ShowOptions): string {
  // four digits stand together, so that a year reads as one
  const grouping = format === 'plain' ? false : format === 'grouped' ? 'always' : 'min2';
  const text =
    isEnglish(locale) && Number.isFinite(n) ? numberInEnglish(n, decimals, grouping) : numberFormat(locale, decimals, grouping).format(n);
  return grouped(text.replace(/^-/, '−'));
}
const grouped = (text: string): string => (formats.grouping === 'comma' ? text : text.replaceAll(',', GROUPING[formats.grouping]));

const MONTHS = ['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'];
const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
type Words = 'long' | 'weekday' | '';
/** A day as English writes it: the first use of Intl's dates costs a page 20 ms, and most pages show a day. Null in other languages. */
function inEnglish(date: Date, locale: string, words: Words): string | null {
  if (!isEnglish(locale)) return null;
  const month = MONTHS[date.getUTCMonth()] as string;
  const short = locale === 'en-GB' && month === 'September' ? 'Sept' : month.slice(0, 3);
  const [day, named, year] = [date.getUTCDate(), words === 'long' ? month : short, date.getUTCFullYear()];
  const text = locale === 'en-GB' ? `${day} ${named} ${year}` : `${named} ${day}, ${year}`;
  return words === 'weekday' ? `${DAYS[date.getUTCDay()]}, ${text}` : text;
}
const dateFormats = new Map<string, Intl.DateTimeFormat>();
function inLanguage(date: Date, locale: string, words: Words): string {
  const key = `${locale} ${words}`;
  let format = dateFormats.get(key);
  if (!format) {
    const weekday = words === 'weekday' ? ({ weekday: 'short' } as const) : {};
    const month = words === 'long' ? 'long' : 'short';
    format = new Intl.DateTimeFormat(locale, { day: 'numeric', month, year: 'numeric', ...weekday, timeZone: 'UTC' });
    dateFormats.set(key, format);
  }
  return format.format(date);
}
/** `2026-03-01` as "1 Mar 2026" in the reader's language; never shifted by a zone. */
export function showDate(iso: string, { locale, format: asked = null }: ShowOptions): string {
  const words: Words = asked === 'long' || asked === 'weekday' ? asked : '';
  if (asked === 'iso' || (formats.dates === 'iso' && words === '')) return iso.slice(0, 10);
  const date = new Date(`${iso.slice(0, 10)}T00:00:00Z`);
  if (Number.isNaN(date.getTime())) return iso;
  const written = formats.dates === 'monthFirst' ? 'en-US' : locale;
  return inEnglish(date, written, words) ?? inLanguage(date, written, words);
}

/** `09:30:00` as 09:30; seconds only where there are some. */
export const showTime = (time: string, format: FieldFormat | null = null): string =>
  time.endsWith(':00') && format !== 'seconds' ? time.slice(0, 5) : time;
export const showDateTime = (iso: string, options: ShowOptions): string =>
  `${showDate(iso, options)}, ${showTime(iso.slice(11), options.format ?? null)}`;

/** A number as it stands in an input: no grouping, the point as decimal sign. */
export const inputNumber = (n: number): string => plainNumber(n);

import { plainNumber } from './decimal.ts';

/**
 * Values as readers see them. `locale` is the reader's; what is stored stays ISO. Formatters are made once per locale.
 */
export interface ShowOptions {
  readonly locale: string;
  readonly decimals?: number | null;
}

const numberFormats = new Map<string, Intl.NumberFormat>();
function numberFormat(locale: string, decimals: number | null): Intl.NumberFormat {
  const key = `${locale} ${decimals ?? ''}`;
  let format = numberFormats.get(key);
  if (!format) {
    const fraction =
      decimals === null ? { maximumFractionDigits: 15 } : { minimumFractionDigits: decimals, maximumFractionDigits: decimals };
    // four digits stand together, so that a year reads as one
    const digits = { ...fraction, useGrouping: 'min2' } as Intl.NumberFormatOptions;
    numberFormats.set(key, (format = new Intl.NumberFormat(locale, digits)));
  }
  return format;
}

/** A number with the reader's separators and a true minus sign. */
export const showNumber = (n: number, { locale, decimals = null }: ShowOptions): string =>
  numberFormat(locale, decimals).format(n).replace(/^-/, '−');

const dateFormats = new Map<string, Intl.DateTimeFormat>();
/** `2026-03-01` as "1 Mar 2026" in the reader's language; never shifted by a zone. */
export function showDate(iso: string, { locale }: ShowOptions): string {
  let format = dateFormats.get(locale);
  if (!format)
    dateFormats.set(
      locale,
      (format = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' })),
    );
  const date = new Date(`${iso.slice(0, 10)}T00:00:00Z`);
  return Number.isNaN(date.getTime()) ? iso : format.format(date);
}

/** `09:30:00` as 09:30; seconds only where there are some. */
export const showTime = (time: string): string => (time.endsWith(':00') ? time.slice(0, 5) : time);
export const showDateTime = (iso: string, options: ShowOptions): string => `${showDate(iso, options)}, ${showTime(iso.slice(11))}`;

/** A number as it stands in an input: no grouping, the point as decimal sign. */
export const inputNumber = (n: number): string => plainNumber(n);

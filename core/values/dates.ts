/*
 * Calendar dates without time or zone, as ISO text. Arithmetic goes through day numbers counted from 1970-01-01
 * in the proleptic Gregorian calendar ("days from civil", the usual closed form over 400-year eras).
 * Tested day by day against Temporal.PlainDate.
 */

export const MIN_DATE = '0001-01-01';
export const MAX_DATE = '9999-12-31';

export interface DateParts {
  readonly year: number;
  readonly month: number;
  readonly day: number;
}

const pad = (n: number, width: number): string => String(n).padStart(width, '0');

export const isLeapYear = (year: number): boolean => (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;

export function daysInMonth(year: number, month: number): number {
  if (month === 2) return isLeapYear(year) ? 29 : 28;
  return month === 4 || month === 6 || month === 9 || month === 11 ? 30 : 31;
}

/** Day number of a date: 0 is 1970-01-01. Month and day must be in range. */
export function dayNumber(year: number, month: number, day: number): number {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  return era * 146097 + dayOfEra - 719468;
}

export function partsOfDayNumber(days: number): DateParts {
  const z = days + 719468;
  const era = Math.floor(z / 146097);
  const dayOfEra = z - era * 146097;
  const yearOfEra = Math.floor(
    (dayOfEra - Math.floor(dayOfEra / 1460) + Math.floor(dayOfEra / 36524) - Math.floor(dayOfEra / 146096)) / 365,
  );
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const mp = Math.floor((5 * dayOfYear + 2) / 153);
  const month = mp < 10 ? mp + 3 : mp - 9;
  return { year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0), month, day: dayOfYear - Math.floor((153 * mp + 2) / 5) + 1 };
}

export const formatDateParts = (p: DateParts): string => `${pad(p.year, 4)}-${pad(p.month, 2)}-${pad(p.day, 2)}`;

/** The parts of an ISO date or date-time, unchecked. */
export const partsOfDate = (iso: string): DateParts => ({
  year: Number(iso.slice(0, 4)),
  month: Number(iso.slice(5, 7)),
  day: Number(iso.slice(8, 10)),
});

/** Whether the text is a real calendar date `YYYY-MM-DD` from 0001 to 9999. */
export function isIsoDate(text: string): boolean {
  if (!/^\d{4}-\d\d-\d\d$/.test(text)) return false;
  const { year, month, day } = partsOfDate(text);
  return year >= 1 && month >= 1 && month <= 12 && day >= 1 && day <= daysInMonth(year, month);
}

/** Whether the text is a time `HH:MM:SS`. */
export const isIsoTime = (text: string): boolean => /^([01]\d|2[0-3]):[0-5]\d:[0-5]\d$/.test(text);

/** Whether the text is a date-time `YYYY-MM-DDTHH:MM:SS`. */
export const isIsoDateTime = (text: string): boolean =>
  text.length === 19 && text[10] === 'T' && isIsoDate(text.slice(0, 10)) && isIsoTime(text.slice(11));

export function dateToDays(iso: string): number {
  const { year, month, day } = partsOfDate(iso);
  return dayNumber(year, month, day);
}

const MIN_DAYS = dayNumber(1, 1, 1);
const MAX_DAYS = dayNumber(9999, 12, 31);

/** The date of a day number, or null outside 0001–9999. A fraction of a day is dropped. */
export function daysToDate(days: number): string | null {
  const whole = Math.floor(days);
  if (!(whole >= MIN_DAYS && whole <= MAX_DAYS)) return null;
  return formatDateParts(partsOfDayNumber(whole));
}

/** The date `days` later (earlier when negative), or null outside 0001–9999. */
export const addDays = (iso: string, days: number): string | null => daysToDate(dateToDays(iso) + days);

/** The same day `months` later; the last day of the month when it has no such day (EDATE). Null outside 0001–9999. */
export function addMonths(iso: string, months: number): string | null {
  const { year, month, day } = partsOfDate(iso);
  const index = year * 12 + (month - 1) + Math.trunc(months);
  const y = Math.floor(index / 12);
  const m = index - y * 12 + 1;
  if (!(y >= 1 && y <= 9999)) return null;
  return formatDateParts({ year: y, month: m, day: Math.min(day, daysInMonth(y, m)) });
}

/** Year, month and day as DATE takes them: month 13 is January next year, day 0 the last of the month before. */
export function dateFromParts(year: number, month: number, day: number): string | null {
  const index = Math.trunc(year) * 12 + (Math.trunc(month) - 1);
  const y = Math.floor(index / 12);
  const m = index - y * 12 + 1;
  if (!Number.isFinite(index) || y < -10000 || y > 20000) return null;
  return daysToDate(dayNumber(y, m, 1) + Math.trunc(day) - 1);
}

/** 0 = Monday … 6 = Sunday. */
export const weekdayIndex = (days: number): number => (((days + 3) % 7) + 7) % 7;

/** Seconds from one date or date-time to another; a date is the midnight of its day. */
export const secondsBetween = (from: string, to: string): number => secondsOf(to) - secondsOf(from);
const secondsOf = (moment: string): number => dateToDays(moment) * 86_400 + (moment.length > 10 ? timeToSeconds(moment.slice(11)) : 0);
/** The date-time some seconds later (earlier when negative), or null outside 0001–9999. */
export function addSeconds(moment: string, seconds: number): string | null {
  const at = secondsOf(moment) + seconds;
  const day = daysToDate(at / 86_400);
  return day === null ? null : `${day}T${secondsToTime(at)}`;
}
/** Seconds since midnight of `HH:MM:SS`. */
export const timeToSeconds = (time: string): number =>
  Number(time.slice(0, 2)) * 3600 + Number(time.slice(3, 5)) * 60 + Number(time.slice(6, 8));

export function secondsToTime(seconds: number): string {
  const s = ((Math.floor(seconds) % 86400) + 86400) % 86400;
  return `${pad(Math.floor(s / 3600), 2)}:${pad(Math.floor(s / 60) % 60, 2)}:${pad(s % 60, 2)}`;
}

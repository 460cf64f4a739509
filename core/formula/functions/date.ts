import {
  addMonths, dateFromParts, dateToDays, dayNumber, daysInMonth, daysToDate, formatDateParts, isIsoDate, isLeapYear, partsOfDate,
  secondsToTime, timeToSeconds, weekdayIndex,
} from '../../values/dates.ts'; // prettier-ignore
import { divide } from '../../values/decimal.ts';
import type { Datum } from '../../values/types.ts';
import type { Result } from '../errors.ts';
import * as T from '../../values/typing.ts';
import { type CallContext, type FunctionDeclaration, date, dates, define, fail, items, number, optional, p, text, time } from './define.ts';

type Examples = [string, string][];
const day = (d: Datum | undefined): number => dateToDays(d as string);
const inRange = (d: string | null, c: CallContext): Result => d ?? fail('overflow', 'The date lies outside the years 1 to 9999.', c);
const part = (name: string, summary: string, examples: Examples, f: (d: string) => number): FunctionDeclaration =>
  define({ name, group: 'date', parameters: [p('date', date)], summary, examples, returns: T.NUMBER, evaluate: ([d]) => f(d as string) });
const timePart = (name: string, summary: string, examples: Examples, f: (seconds: number) => number): FunctionDeclaration =>
  define({
    name, group: 'date', parameters: [p('time', time)], summary, examples, returns: T.NUMBER,
    evaluate: ([t]) => f(timeToSeconds((t as string).slice(-8))),
  }); // prettier-ignore

/** Day number of the Monday that begins ISO week 1 of a year: the week with 4 January. */
const isoYearStart = (year: number): number => {
  const fourth = dayNumber(year, 1, 4);
  return fourth - weekdayIndex(fourth);
};
function isoWeek(days: number, year: number): number {
  if (days < isoYearStart(year)) return isoWeek(days, year - 1);
  if (days >= isoYearStart(year + 1)) return 1;
  return Math.floor((days - isoYearStart(year)) / 7) + 1;
}

/** Whether a day of the week (0 is Monday) is worked. */
type Worked = (weekday: number) => boolean;
/** What is worked: as the workspace says, else Monday to Friday. */
function workedIn(c: CallContext): Worked {
  const days = c.calendar?.workingDays;
  return days ? (weekday) => days.includes(weekday + 1) : (weekday) => weekday < 5;
}
/** Days off: those that a formula names, else those of the workspace. */
const daysOff = (named: Datum | undefined, c: CallContext): Set<number> =>
  named === undefined ? new Set((c.calendar?.holidays ?? []).map(dateToDays)) : holidaySet(named);

/** Working days from a to b inclusive, less holidays; negative when b is earlier (OpenFormula NETWORKDAYS). */
function workingDays(a: number, b: number, holidays: ReadonlySet<number>, isWorked: Worked): number {
  const [from, to, sign] = a <= b ? [a, b, 1] : [b, a, -1];
  const weeks = Math.floor((to - from + 1) / 7);
  let count = weeks * [0, 1, 2, 3, 4, 5, 6].filter(isWorked).length;
  for (let d = from + weeks * 7; d <= to; d++) if (isWorked(weekdayIndex(d))) count++;
  for (const h of holidays) if (h >= from && h <= to && isWorked(weekdayIndex(h))) count--;
  return count * sign;
}
const holidaySet = (d: Datum | undefined): Set<number> => new Set(items([d ?? null]).map((x) => dateToDays(x as string)));

function wholeMonths(a: string, b: string): number {
  const x = partsOfDate(a);
  const y = partsOfDate(b);
  return (y.year - x.year) * 12 + (y.month - x.month) - (y.day < x.day ? 1 : 0);
}

const WEEKDAY_KINDS: Readonly<Record<number, readonly [firstDay: number, base: number]>> = {
  // kind: which weekday (0 = Monday) gets the lowest number, and what that number is (OpenFormula 6.10.21)
  1: [6, 1], 2: [0, 1], 3: [0, 0], 11: [0, 1], 12: [1, 1], 13: [2, 1], 14: [3, 1], 15: [4, 1], 16: [5, 1], 17: [6, 1],
}; // prettier-ignore

export const DATES = [
  define({
    name: 'TODAY', group: 'date', parameters: [], returns: T.DATE,
    summary: 'The date on which the entry was opened, in the workspace’s time zone.', examples: [['TODAY() - TODAY()', '0']],
    evaluate: (_, c) => c.today,
  }),
  define({
    name: 'NOW', group: 'date', parameters: [], returns: T.DATETIME,
    summary: 'The date and time at which the entry was opened.', examples: [['NOW() = NOW()', 'TRUE']], evaluate: (_, c) => c.now,
  }),
  define({
    name: 'DATE', group: 'date', parameters: [p('year', number), p('month', number), p('day', number)], returns: T.DATE,
    summary: 'A date from its parts. Month 13 is January of the next year; day 0 the last of the month before.',
    examples: [['DATE(2026, 3, 1)', '2026-03-01'], ['DATE(2026, 14, 1)', '2027-02-01'], ['DATE(2026, 3, 0)', '2026-02-28']],
    evaluate: ([y, m, d], c) => inRange(dateFromParts(y as number, m as number, d as number), c),
  }),
  define({
    name: 'DATEVALUE', group: 'date', parameters: [p('text', text)], returns: T.DATE,
    summary: 'The date that a text spells as year-month-day.', examples: [['DATEVALUE("2026-03-01")', '2026-03-01'], ['ISERROR(DATEVALUE("2026-02-30"))', 'TRUE']],
    evaluate: ([s], c) => (isIsoDate((s as string).trim()) ? (s as string).trim() : fail('badArgument', `“${s as string}” is not a date.`, c)),
  }),
  part('YEAR', 'The year of a date.', [['YEAR(DATE(2026, 3, 1))', '2026']], (d) => partsOfDate(d).year),
  part('MONTH', 'The month of a date, 1 to 12.', [['MONTH(DATE(2026, 3, 1))', '3']], (d) => partsOfDate(d).month),
  part('DAY', 'The day of the month.', [['DAY(DATE(2026, 3, 9))', '9']], (d) => partsOfDate(d).day),
  part('ISOWEEKNUM', 'The week of the year by ISO 8601.', [['ISOWEEKNUM(DATE(2026, 1, 1))', '1'], ['ISOWEEKNUM(DATE(2027, 1, 1))', '53']], (d) =>
    isoWeek(dateToDays(d), partsOfDate(d).year)),
  timePart('HOUR', 'The hour, 0 to 23.', [['HOUR(TIME(13, 5, 9))', '13']], (s) => Math.floor(s / 3600)),
  timePart('MINUTE', 'The minute, 0 to 59.', [['MINUTE(TIME(13, 5, 9))', '5']], (s) => Math.floor(s / 60) % 60),
  timePart('SECOND', 'The second, 0 to 59.', [['SECOND(TIME(13, 5, 9))', '9']], (s) => s % 60),
  define({
    name: 'TIME', group: 'date', parameters: [p('hour', number), p('minute', number), p('second', number)], returns: T.TIME,
    summary: 'A time of day from its parts.', examples: [['TIME(9, 30, 0)', '09:30:00'], ['TIME(0, 90, 0)', '01:30:00']],
    evaluate([h, m, s], c) {
      const seconds = (h as number) * 3600 + (m as number) * 60 + (s as number);
      return Math.abs(seconds) < 1e14 ? secondsToTime(seconds) : fail('overflow', 'The time is too far away.', c);
    },
  }),
  define({
    name: 'WEEKDAY', group: 'date', parameters: [p('date', date), p('kind', number, optional)], returns: T.NUMBER,
    summary: 'The day of the week as a number. Kind 1 (usual): Sunday 1 … Saturday 7; 2: Monday 1 … Sunday 7; 3: Monday 0 … Sunday 6; 11 to 17: 1 on Monday … Sunday.',
    examples: [['WEEKDAY(DATE(2026, 3, 1))', '1'], ['WEEKDAY(DATE(2026, 3, 1), 2)', '7'], ['WEEKDAY(DATE(2026, 3, 2), 3)', '0']],
    evaluate([d, kind = 1], c) {
      const rule = WEEKDAY_KINDS[Math.trunc(kind as number)];
      if (!rule) return fail('badArgument', 'The kind must be 1, 2, 3 or 11 to 17.', c);
      return ((weekdayIndex(day(d)) - rule[0] + 7) % 7) + rule[1];
    },
  }),
  define({
    name: 'WEEKNUM', group: 'date', parameters: [p('date', date), p('kind', number, optional)], returns: T.NUMBER,
    summary: 'The week of the year; week 1 holds 1 January. Kind 1 (usual): weeks begin on Sunday, 2: on Monday, 21: as ISOWEEKNUM.',
    examples: [['WEEKNUM(DATE(2026, 1, 4))', '2'], ['WEEKNUM(DATE(2026, 1, 4), 2)', '1'], ['WEEKNUM(DATE(2027, 1, 1), 21)', '53']],
    evaluate([d, kind = 1], c) {
      const k = Math.trunc(kind as number);
      const days = day(d);
      const { year } = partsOfDate(d as string);
      if (k === 21 || k === 150) return isoWeek(days, year);
      const rule = WEEKDAY_KINDS[k];
      if (!rule || k === 3) return fail('badArgument', 'The kind must be 1, 2, 11 to 17 or 21.', c);
      const first = dayNumber(year, 1, 1);
      const lead = (weekdayIndex(first) - rule[0] + 7) % 7;
      return Math.floor((days - first + lead) / 7) + 1;
    },
  }),
  define({
    name: 'EDATE', group: 'date', parameters: [p('date', date), p('months', number)], returns: T.DATE,
    summary: 'The same day some months later; the last of the month where there is no such day.',
    examples: [['EDATE(DATE(2026, 1, 31), 1)', '2026-02-28'], ['EDATE(DATE(2026, 3, 31), -1)', '2026-02-28']],
    evaluate: ([d, m], c) => inRange(addMonths((d as string).slice(0, 10), m as number), c),
  }),
  define({
    name: 'EOMONTH', group: 'date', parameters: [p('date', date), p('months', number)], returns: T.DATE,
    summary: 'The last day of the month some months later.', examples: [['EOMONTH(DATE(2024, 1, 15), 1)', '2024-02-29']],
    evaluate([d, m], c) {
      const moved = addMonths(`${(d as string).slice(0, 8)}01`, m as number);
      if (moved === null) return inRange(null, c);
      const { year, month } = partsOfDate(moved);
      return formatDateParts({ year, month, day: daysInMonth(year, month) });
    },
  }),
  define({
    name: 'DAYS', group: 'date', parameters: [p('end', date), p('start', date)], returns: T.NUMBER,
    summary: 'The days from start to end.', examples: [['DAYS(DATE(2026, 3, 1), DATE(2026, 2, 1))', '28']],
    evaluate: ([end, start]) => day(end) - day(start),
  }),
  define({
    name: 'DATEDIF', group: 'date', parameters: [p('start', date), p('end', date), p('unit', text)], returns: T.NUMBER,
    summary: 'The time between two dates in a unit: "y" whole years, "m" whole months, "d" days, "md" days beyond months, "ym" months beyond years, "yd" days beyond years.',
    examples: [['DATEDIF(DATE(2024, 2, 29), DATE(2026, 3, 1), "y")', '2'], ['DATEDIF(DATE(2026, 1, 31), DATE(2026, 3, 1), "m")', '1'], ['DATEDIF(DATE(2026, 1, 15), DATE(2026, 3, 1), "md")', '14']],
    evaluate([start, end, unit], c) {
      const a = (start as string).slice(0, 10);
      const b = (end as string).slice(0, 10);
      if (a > b) return fail('badArgument', 'The start lies after the end.', c);
      const x = partsOfDate(a);
      const y = partsOfDate(b);
      switch ((unit as string).toLowerCase()) {
        case 'd': return dateToDays(b) - dateToDays(a);
        case 'm': return wholeMonths(a, b);
        case 'y': return Math.floor(wholeMonths(a, b) / 12);
        case 'ym': return wholeMonths(a, b) % 12;
        case 'md': {
          // days since the start's day in the month of the end, or the month before (OpenFormula 6.10.5)
          const month = y.day >= x.day ? y.month : y.month - 1;
          return dateToDays(b) - dateToDays(dateFromParts(y.year, month, x.day) ?? a);
        }
        case 'yd': {
          const sameYear = dateFromParts(y.year, x.month, x.day) ?? a;
          const from = sameYear <= b ? sameYear : (dateFromParts(y.year - 1, x.month, x.day) ?? a);
          return dateToDays(b) - dateToDays(from);
        }
        default: return fail('badArgument', `“${unit as string}” is not a unit; use "y", "m", "d", "md", "ym" or "yd".`, c);
      }
    },
  }),
  define({
    name: 'NETWORKDAYS', group: 'date', empties: 'given', parameters: [p('start', date), p('end', date), p('holidays', dates, optional)], returns: T.NUMBER,
    summary: 'Working days from start to end, both counted, without the holidays.',
    detail: 'Working days are those of the workspace, Monday to Friday until it says otherwise; so are the holidays where none are named.',
    examples: [['NETWORKDAYS(DATE(2026, 3, 2), DATE(2026, 3, 8))', '5'], ['NETWORKDAYS(DATE(2026, 3, 2), DATE(2026, 3, 8), DATE(2026, 3, 4))', '4']],
    evaluate: ([a, b, h], c) => (a === null || b === null ? null : workingDays(day(a), day(b), daysOff(h, c), workedIn(c))),
  }),
  define({
    name: 'WORKDAY', group: 'date', empties: 'given', parameters: [p('start', date), p('days', number), p('holidays', dates, optional)], returns: T.DATE,
    summary: 'The date some working days after (or before) the start, without the holidays.',
    detail: 'Working days are those of the workspace, Monday to Friday until it says otherwise; so are the holidays where none are named.',
    examples: [['WORKDAY(DATE(2026, 3, 6), 1)', '2026-03-09'], ['WORKDAY(DATE(2026, 3, 9), -1)', '2026-03-06']],
    evaluate([start, n, h], c) {
      if (start === null || n === null) return null;
      const holidays = daysOff(h, c);
      const isWorked = workedIn(c);
      let left = Math.trunc(Math.abs(n as number));
      if (left > 1_000_000) return fail('tooMuch', 'At most 1,000,000 working days can be counted.', c);
      const step = (n as number) < 0 ? -1 : 1;
      let at = day(start);
      while (left > 0) {
        at += step;
        if (isWorked(weekdayIndex(at)) && !holidays.has(at)) left--;
      }
      return inRange(daysToDate(at), c);
    },
  }),
  define({
    name: 'YEARFRAC', group: 'date', parameters: [p('start', date), p('end', date), p('basis', number, optional)], returns: T.NUMBER,
    summary: 'The years between two dates as a fraction. Basis 0 (usual): months of 30 days in years of 360; 1: actual days over the mean length of the years; 2: days over 360; 3: days over 365; 4: European 30/360.',
    examples: [['YEARFRAC(DATE(2026, 1, 1), DATE(2026, 7, 1))', '0.5'], ['ROUND(YEARFRAC(DATE(2026, 1, 1), DATE(2026, 12, 31), 3), 4)', '0.9973']],
    evaluate([start, end, basis = 0], c) {
      const [a, b] = day(start) <= day(end) ? [start as string, end as string] : [end as string, start as string];
      const days = dateToDays(b) - dateToDays(a);
      switch (Math.trunc(basis as number)) {
        case 0: return divide(days360(a, b, false), 360);
        case 1: return actual(a, b);
        case 2: return divide(days, 360);
        case 3: return divide(days, 365);
        case 4: return divide(days360(a, b, true), 360);
        default: return fail('badArgument', 'The basis must be 0 to 4.', c);
      }
    },
  }),
]; // prettier-ignore

/** Actual days over the actual length of the years (OpenFormula 4.11.7, basis 1): within one year its own length, else the mean. */
function actual(a: string, b: string): number {
  const days = dateToDays(b) - dateToDays(a);
  const [x, y] = [partsOfDate(a), partsOfDate(b)];
  const nextYear = dateFromParts(x.year + 1, x.month, x.day) ?? b;
  if (b.slice(0, 10) <= nextYear) {
    // a year or less: 366 where it holds a 29 February
    const leap = (year: number): boolean =>
      isLeapYear(year) &&
      a.slice(0, 10) <= `${String(year).padStart(4, '0')}-02-29` &&
      b.slice(0, 10) >= `${String(year).padStart(4, '0')}-02-29`;
    const wholeLeap = x.year === y.year && isLeapYear(x.year);
    return divide(days, wholeLeap || leap(x.year) || leap(y.year) ? 366 : 365);
  }
  let length = 0;
  for (let year = x.year; year <= y.year; year++) length += isLeapYear(year) ? 366 : 365;
  return divide(days, divide(length, y.year - x.year + 1));
}

/** Days between dates in months of 30 days: the US (NASD) or the European rule (OpenFormula 4.11.7). */
export function days360(a: string, b: string, european: boolean): number {
  const x = partsOfDate(a);
  const y = partsOfDate(b);
  let d1 = x.day;
  let d2 = y.day;
  const endOfFebruary = (z: typeof x): boolean => z.month === 2 && z.day === daysInMonth(z.year, 2);
  if (european) {
    d1 = Math.min(d1, 30);
    d2 = Math.min(d2, 30);
  } else {
    if (endOfFebruary(x) && endOfFebruary(y)) d2 = 30;
    if (endOfFebruary(x)) d1 = 30;
    if (d2 === 31 && d1 >= 30) d2 = 30;
    if (d1 === 31) d1 = 30;
  }
  return (y.year - x.year) * 360 + (y.month - x.month) * 30 + (d2 - d1);
}

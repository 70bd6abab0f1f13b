import { dayBegins } from './clock';
import { bad, good, type Result } from '@/core/values/problem';

/** Working days are Mondays to Fridays: of holidays nothing is known. Hours count for moments only. */
export const DAY_UNITS = ['day', 'workingDay', 'week', 'month', 'year', 'hour'] as const;
export type DayUnit = (typeof DAY_UNITS)[number];

/** From which day a relative date counts; weeks begin on Monday (ISO 8601). */
export const DAY_BASES = [
  'today',
  'weekStart',
  'monthStart',
  'quarterStart',
  'yearStart',
  'financialYearStart',
] as const;
export type DayBase = (typeof DAY_BASES)[number];

/** The first civil date there is. */
export const FIRST_DAY = '0001-01-01';

/** A day of every year: month 1 to 12, day 1 to 28. */
export interface DayOfYear {
  readonly month: number;
  readonly day: number;
}

/** A date relative to a day: some days, weeks, months or years from it, or from the start of the week, month, quarter or year that it is in. */
export interface RelativeDay {
  readonly from: DayBase;
  /** Whole; negative for earlier. */
  readonly plus: number;
  readonly unit: DayUnit;
  /** When the financial year begins; needed where it counts from there. */
  readonly financialYear?: DayOfYear;
}

/** Most that a relative date may be away, in its unit. */
export const MOST_AWAY = 4_000;

/**
 * The civil date that a relative one comes to on a day (`2026-03-31` and one month earlier: `2026-02-28`, the last day where a month
 * is shorter). Refuses what isn't in the years 1 to 9999.
 */
export function relativeDay(today: string, { from, plus, unit, financialYear }: RelativeDay): Result<string> {
  if (!Number.isInteger(plus) || Math.abs(plus) > MOST_AWAY)
    return bad(
      'day.away',
      `Expected a whole number up to ${MOST_AWAY} either way, found ${plus}. Enter another.`,
    );
  if (unit === 'hour')
    return bad(
      'day.hours',
      'Hours are counted for a moment, not for a date. Choose days, or a field of date and time on the left.',
    );
  if (from === 'financialYearStart' && !isDayOfYear(financialYear))
    return bad(
      'day.financialYear',
      'Expected when the financial year begins: a month from 1 to 12 and a day from 1 to 28. Enter both.',
    );
  const start = startOf(today, from, financialYear);
  if (start === null) return bad('day.range', OUT_OF_RANGE);
  const [year, month, day] = partsOf(start);
  const months = unit === 'month' ? plus : unit === 'year' ? plus * 12 : 0;
  const moved = year * 12 + (month - 1) + months;
  const [toYear, toMonth] = [Math.floor(moved / 12), moved % 12];
  const last = utc(toYear, toMonth + 1, 0).getUTCDate();
  const within = dayNumber(utc(toYear, toMonth, Math.min(day, last)));
  const found =
    unit === 'workingDay'
      ? workingDaysAfter(start, plus)
      : dayOf(within + (unit === 'day' ? plus : unit === 'week' ? plus * 7 : 0));
  return found === null ? bad('day.range', OUT_OF_RANGE) : good(found);
}

const HOUR = 3_600_000;

/** The moment so many hours after, or before, a day began by the clocks of a time zone (an instant in UTC, to the millisecond). */
export function relativeMoment(timeZone: string, today: string, given: RelativeDay): Result<string> {
  const day = relativeDay(today, { ...given, plus: 0, unit: 'day' });
  if (!day.ok) return day;
  if (!Number.isInteger(given.plus) || Math.abs(given.plus) > MOST_AWAY)
    return relativeDay(today, { ...given, unit: 'day' });
  const moment = new Date(dayBegins(timeZone, day.value) + given.plus * HOUR);
  const year = moment.getUTCFullYear();
  return year < 1 || year > 9999 ? bad('day.range', OUT_OF_RANGE) : good(moment.toISOString());
}

const OUT_OF_RANGE = 'This date lies outside the years 1 to 9999. Enter a smaller number.';

const partsOf = (date: string): [number, number, number] =>
  date.split('-').map(Number) as [number, number, number];

const isDayOfYear = (at: DayOfYear | undefined): at is DayOfYear =>
  at !== undefined &&
  [at.month, at.day].every(Number.isInteger) &&
  at.month >= 1 &&
  at.month <= 12 &&
  at.day >= 1 &&
  at.day <= 28;

const written = (year: number, month: number, day: number): string =>
  [String(year).padStart(4, '0'), String(month).padStart(2, '0'), String(day).padStart(2, '0')].join('-');

/** The first day of the stretch that a date is in; `null` before the year 1, or where the financial year isn't one of these days. */
export function startOf(date: string, from: DayBase, financialYear?: DayOfYear): string | null {
  const [year, month] = partsOf(date);
  switch (from) {
    case 'today':
      return date;
    case 'weekStart':
      return shiftDay(date, 1 - weekdayOf(date));
    case 'monthStart':
      return written(year, month, 1);
    case 'quarterStart':
      return written(year, month - ((month - 1) % 3), 1);
    case 'yearStart':
      return written(year, 1, 1);
    case 'financialYearStart': {
      if (!isDayOfYear(financialYear)) return null;
      const inYear = written(year, financialYear.month, financialYear.day);
      if (inYear <= date) return inYear;
      return year === 1 ? null : written(year - 1, financialYear.month, financialYear.day);
    }
  }
}

const DAY = 86_400_000;
/** 1 January of the year 1, which is a Monday. */
const FIRST = utc(1, 0, 1).getTime();
const dayNumber = (midnight: Date): number => (midnight.getTime() - FIRST) / DAY;
const numberOf = (date: string): number => {
  const [year, month, day] = partsOf(date);
  return dayNumber(utc(year, month - 1, day));
};
function dayOf(number: number): string | null {
  const date = new Date(FIRST + number * DAY);
  const year = date.getUTCFullYear();
  return number < 0 || !(year <= 9999) ? null : written(year, date.getUTCMonth() + 1, date.getUTCDate());
}

/** 1 for Monday to 7 for Sunday. */
export const weekdayOf = (date: string): number => (numberOf(date) % 7) + 1;

/** How many days there are from a date to another; below 0 where that is earlier. */
export const daysBetween = (from: string, to: string): number => numberOf(to) - numberOf(from);

/** The date so many days later, or earlier; `null` outside the years 1 to 9999. */
export const shiftDay = (date: string, days: number): string | null => dayOf(numberOf(date) + days);

/**
 * The date so many working days later, or earlier: the next one after a Saturday is Monday, the one before it Friday. With 0 it is the
 * date itself. `null` outside the years 1 to 9999.
 */
export function workingDaysAfter(date: string, days: number): string | null {
  if (days === 0) return date;
  const weekday = weekdayOf(date);
  const isWeekend = weekday > 5;
  // Counting on from a weekend begins at the Friday before it, counting back at the Monday after it.
  const at = numberOf(date) + (isWeekend ? (days > 0 ? 5 - weekday : 8 - weekday) : 0);
  const within = (isWeekend ? (days > 0 ? 5 : 1) : weekday) - 1;
  const moved = within + days;
  const weeks = Math.floor(moved / 5);
  return dayOf(at - within + weeks * 7 + (moved - weeks * 5));
}

/** How many working days there are from a date on and before another; below 0 where that is earlier. */
export function workingDaysBetween(from: string, to: string): number {
  const before = (date: string) => {
    const number = numberOf(date);
    return Math.floor(number / 7) * 5 + Math.min(number % 7, 5);
  };
  return before(to) - before(from);
}

/** A day's midnight in UTC, for years below 100 too. */
function utc(year: number, month: number, day: number): Date {
  const date = new Date(0);
  date.setUTCFullYear(year, month, day);
  return date;
}

export const DAY_BASE_WORDS: Readonly<Record<DayBase, string>> = {
  today: 'today',
  weekStart: 'the Monday of this week',
  monthStart: 'the first of this month',
  quarterStart: 'the first of this quarter',
  yearStart: 'the first of this year',
  financialYearStart: 'the first of this financial year',
};
export const DAY_UNIT_WORDS: Readonly<Record<DayUnit, string>> = {
  ...{ day: 'day', workingDay: 'working day', week: 'week', month: 'month', year: 'year' },
  hour: 'hour',
};
export const MONTHS = [
  ...['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August'],
  ...['September', 'October', 'November', 'December'],
];

export const dayOfYearWords = ({ month, day }: DayOfYear): string => `${day} ${MONTHS[month - 1] ?? month}`;

/** A relative date in words: `6 months before today`. */
export function relativeWords({ from, plus, unit, financialYear }: RelativeDay): string {
  const since =
    from === 'financialYearStart' && financialYear ? ` (since ${dayOfYearWords(financialYear)})` : '';
  const base = `${DAY_BASE_WORDS[from]}${since}`;
  if (plus === 0) return base;
  const number = Math.abs(plus);
  const began = unit === 'hour' ? ' began' : '';
  return `${number} ${DAY_UNIT_WORDS[unit]}${number === 1 ? '' : 's'} ${plus < 0 ? 'before' : 'after'} ${base}${began}`;
}

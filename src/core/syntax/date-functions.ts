import {
  certain,
  clockAt,
  daysBetween,
  Decimal,
  isCivilDate,
  MONTHS,
  shiftDay,
  startOf,
  type Value,
  type ValueType,
  weekdayOf,
  workingDaysAfter,
  workingDaysBetween,
} from '@/core/values';
import {
  DATE,
  type Example,
  type FunctionEntry,
  NUMBER,
  number,
  one,
  part,
  type Present,
  TEXT,
  text,
} from './function-entry';

/** More working days than there are between the years 1 and 9999. */
export const MOST_WORKING_DAYS = 4_000_000;

const wholeOf = (value: Present | undefined): number => number(value).toNumber();

/** The last day of a month: the day before the first of the next. */
function endOfMonth(date: string): string {
  const [year, month] = date.split('-').map(Number) as [number, number];
  const last = new Date(0);
  last.setUTCFullYear(year, month, 0);
  return `${date.slice(0, 8)}${String(last.getUTCDate()).padStart(2, '0')}`;
}

const dayFrom = (
  move: (date: string) => Value,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('date', 'date')],
  ...{ help, examples, gives: () => DATE },
  work: ([date]) => move(text(date)),
});

export const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
export { MONTHS };

const partsIn = (date: string): [number, number, number] =>
  date.split('-').map(Number) as [number, number, number];

/** What the clocks of a time zone show at a moment, as if it were UTC; `null` outside the years 1 to 9999. */
function shownAt(moment: string, zone: string): Date | null {
  const shown = new Date(clockAt(zone, Date.parse(moment)));
  const year = shown.getUTCFullYear();
  return year < 1 || year > 9999 ? null : shown;
}

const clockPart = (
  which: (shown: Date) => number,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('moment', 'date and time')],
  ...{ help, examples, gives: () => NUMBER(0), isInZone: true },
  work: ([moment, zone]) => {
    const shown = shownAt(text(moment), text(zone));
    return shown && new Decimal(which(shown));
  },
});

const MONTHS_LONG: ValueType = { kind: 'number', scale: 0, unit: 'months' };

/** Days from the first of a year on, that day being 1. */
const dayOfYear = (date: string): number => daysBetween(certain(startOf(date, 'yearStart')), date) + 1;

/** The week of ISO 8601, counted by its Thursday: the first is the one that has the year’s first. */
const weekOfYear = (date: string): number =>
  Math.ceil(dayOfYear(certain(shiftDay(date, 4 - weekdayOf(date)))) / 7);

/** Whole months from one date to another; below 0 where that is earlier. */
function monthsBetween(from: string, to: string): number {
  const [[y1, m1, d1], [y2, m2, d2]] = [partsIn(from), partsIn(to)];
  const months = (y2 - y1) * 12 + m2 - m1;
  if (months > 0 && d2 < d1) return months - 1;
  return months < 0 && d2 > d1 ? months + 1 : months;
}

const named = (
  which: (date: string) => string,
  help: string,
  examples: readonly Example[],
): FunctionEntry => ({
  parameters: [one('date', 'date')],
  ...{ help, examples, gives: () => TEXT },
  work: ([date]) => which(text(date)),
});

/** Functions of dates. */
export const DATE_FUNCTIONS = {
  date: {
    parameters: [one('text', 'text')],
    help: 'The day that a text says as year-month-day, as 2026-02-14; empty where it says none.',
    examples: [
      ['date(substring("on 2026-02-14", 4))', 'date("2026-02-14")'],
      ['date(trim(" 2026-02-14 "))', 'date("2026-02-14")'],
    ],
    gives: () => DATE,
    work: ([value]) => (isCivilDate(text(value)) ? text(value) : null),
  },
  'civil date': {
    parameters: [one('moment', 'date and time')],
    help: 'The day of a moment, by the clocks of the workspace’s time zone. `date(seen)` says the same; wherever a date is taken a moment is taken so.',
    examples: [['civil date(date and time("2026-07-14T23:30:00Z"))', 'date("2026-07-15")']],
    gives: () => DATE,
    isInZone: true,
    work: ([moment, zone]) => shownAt(text(moment), text(zone))?.toISOString().slice(0, 10) ?? null,
  },
  hour: clockPart(
    (shown) => shown.getUTCHours(),
    'The hour of a moment, 0 to 23, by the clocks of the workspace’s time zone. `seen.hour` says the same.',
    [['hour(date and time("2026-07-14T12:30:00Z"))', '13']],
  ),
  minute: clockPart(
    (shown) => shown.getUTCMinutes(),
    'The minute of a moment’s hour, 0 to 59. `seen.minute` says the same.',
    [['minute(date and time("2026-07-14T12:30:00Z"))', '30']],
  ),
  second: clockPart(
    (shown) => shown.getUTCSeconds(),
    'The second of a moment’s minute, 0 to 59, cut to a whole one. `seen.second` says the same.',
    [['second(date and time("2026-07-14T12:30:15.9Z"))', '15']],
  ),
  'start of month': dayFrom((date) => startOf(date, 'monthStart'), 'The first day of a date’s month.', [
    ['start of month(date("2026-02-14"))', 'date("2026-02-01")'],
  ]),
  'end of month': dayFrom(endOfMonth, 'The last day of a date’s month.', [
    ['end of month(date("2028-02-14"))', 'date("2028-02-29")'],
  ]),
  'start of year': dayFrom((date) => startOf(date, 'yearStart'), 'The first day of a date’s year.', [
    ['start of year(date("2026-02-14"))', 'date("2026-01-01")'],
  ]),
  'start of week': dayFrom((date) => startOf(date, 'weekStart'), 'The Monday of a date’s week.', [
    ['start of week(date("2026-02-14"))', 'date("2026-02-09")'],
  ]),
  'start of quarter': dayFrom((date) => startOf(date, 'quarterStart'), 'The first day of a date’s quarter.', [
    ['start of quarter(date("2026-02-14"))', 'date("2026-01-01")'],
  ]),
  'start of financial year': {
    parameters: [one('date', 'date'), one('month', 'whole number'), one('day', 'whole number')],
    help: 'The first day of a date’s financial year, which begins on a day (1 to 28) of a month; empty for any other day.',
    examples: [
      ['start of financial year(date("2026-02-14"), 4, 6)', 'date("2025-04-06")'],
      ['start of financial year(date("2026-04-06"), 4, 6)', 'date("2026-04-06")'],
    ],
    gives: () => DATE,
    work: ([date, month, day]) =>
      startOf(text(date), 'financialYearStart', { month: wholeOf(month), day: wholeOf(day) }),
  },
  'working days after': {
    parameters: [one('date', 'date'), one('days', 'whole number')],
    help: 'The date so many working days (Monday to Friday) later, or earlier where the number is below 0.',
    examples: [
      ['working days after(date("2026-02-13"), 1)', 'date("2026-02-16")'],
      ['working days after(date("2026-02-14"), -1)', 'date("2026-02-13")'],
      ['working days after(date("2026-02-11"), 10)', 'date("2026-02-25")'],
    ],
    gives: () => DATE,
    work: ([date, days]) =>
      number(days).abs().greaterThan(MOST_WORKING_DAYS) ? null : workingDaysAfter(text(date), wholeOf(days)),
  },
  'working days until': {
    parameters: [one('from', 'date'), one('to', 'date')],
    help: 'How many working days (Monday to Friday) there are from a date on and before another; below 0 where that is earlier.',
    examples: [
      ['working days until(date("2026-02-13"), date("2026-02-16"))', '1'],
      ['working days until(date("2026-02-16"), date("2026-02-09"))', '-5'],
    ],
    gives: () => NUMBER(0),
    work: ([from, to]) => new Decimal(workingDaysBetween(text(from), text(to))),
  },
  year: part((date) => Number(date.slice(0, 4)), 'The year of a date. `opens.year` says the same.', [
    ['year(date("2026-02-14"))', '2026'],
  ]),
  month: part(
    (date) => Number(date.slice(5, 7)),
    'The month of a date, 1 to 12. `opens.month` says the same.',
    [['month(date("2026-02-14"))', '2']],
  ),
  day: part((date) => Number(date.slice(8, 10)), 'The day of a date’s month. `opens.day` says the same.', [
    ['day(date("2026-02-14"))', '14'],
  ]),
  weekday: part(
    weekdayOf,
    'The day of the week, 1 for Monday to 7 for Sunday. `opens.weekday` says the same.',
    [['weekday(date("2026-02-14"))', '6']],
  ),
  'day of week': named(
    (date) => WEEKDAYS[weekdayOf(date) - 1] ?? '',
    'The name of the day of the week, in English.',
    [['day of week(date("2026-02-14"))', '"Saturday"']],
  ),
  'month of year': named((date) => MONTHS[partsIn(date)[1] - 1] ?? '', 'The name of the month, in English.', [
    ['month of year(date("2026-02-14"))', '"February"'],
  ]),
  'day of year': part(dayOfYear, 'Which day of its year a date is, 1 to 366.', [
    ['day of year(date("2028-12-31"))', '366'],
  ]),
  'week of year': part(weekOfYear, 'The week of ISO 8601 that a date is in, 1 to 53.', [
    ['week of year(date("2027-01-03"))', '53'],
  ]),
  'years and months duration': {
    parameters: [one('from', 'date'), one('to', 'date')],
    help: 'How many whole months there are from a date to another; below 0 where that is earlier.',
    examples: [
      ['years and months duration(date("2026-02-14"), date("2027-05-13"))', '14'],
      [
        'date("2026-02-14") + years and months duration(date("2026-01-01"), date("2026-03-01"))',
        'date("2026-04-14")',
      ],
    ],
    gives: () => MONTHS_LONG,
    work: ([from, to]) => new Decimal(monthsBetween(text(from), text(to))),
  },
} satisfies Record<string, FunctionEntry>;

import dayjs from 'dayjs';
import fc from 'fast-check';
import {
  relativeDay,
  type RelativeDay,
  relativeWords,
  shiftDay,
  weekdayOf,
  workingDaysAfter,
  workingDaysBetween,
} from './day';

const day = (
  today: string,
  from: RelativeDay['from'],
  plus: number,
  unit: RelativeDay['unit'],
  financialYear?: RelativeDay['financialYear'],
) => {
  const result = relativeDay(today, { from, plus, unit, ...(financialYear ? { financialYear } : {}) });
  return result.ok ? result.value : result.problem.code;
};

test('a relative date is a day, a shorter month’s last one, and lies in the years 1 to 9999', () => {
  expect(day('2026-03-31', 'today', -1, 'month')).toBe('2026-02-28');
  expect(day('2028-02-29', 'today', 1, 'year')).toBe('2029-02-28');
  expect(day('2026-01-15', 'monthStart', -1, 'day')).toBe('2025-12-31');
  expect(day('2026-11-25', 'yearStart', 2, 'week')).toBe('2026-01-15');
  expect(day('0001-01-01', 'today', -1, 'day')).toBe('day.range');
  expect(day('9999-12-31', 'today', 1, 'month')).toBe('day.range');
  expect(day('0099-12-31', 'today', 1, 'day')).toBe('0100-01-01');
  expect(day('2026-01-01', 'today', 0.5, 'day')).toBe('day.away');
  expect(day('2026-01-01', 'today', 4_001, 'day')).toBe('day.away');
  expect(day('2026-01-01', 'today', 1, 'hour')).toBe('day.hours');
});

test('it is what a library for dates gives', () => {
  const units = fc.constantFrom('day' as const, 'week' as const, 'month' as const, 'year' as const);
  const days = fc.date({ min: new Date('1900-01-01'), max: new Date('2200-01-01'), noInvalidDate: true });
  fc.assert(
    fc.property(days, units, fc.integer({ min: -500, max: 500 }), (date, unit, plus) => {
      const today = date.toISOString().slice(0, 10);
      expect(day(today, 'today', plus, unit)).toBe(dayjs(today).add(plus, unit).format('YYYY-MM-DD'));
    }),
  );
});

test('it counts from the week, the quarter and the financial year, and in working days', () => {
  const april = { month: 4, day: 6 };
  expect(day('2026-11-29', 'weekStart', 0, 'day')).toBe('2026-11-23');
  expect(day('2026-11-26', 'quarterStart', -1, 'day')).toBe('2026-09-30');
  expect(day('2026-04-05', 'financialYearStart', 0, 'day', april)).toBe('2025-04-06');
  expect(day('2026-04-06', 'financialYearStart', 1, 'year', april)).toBe('2027-04-06');
  expect(day('2026-11-26', 'today', 3, 'workingDay')).toBe('2026-12-01');
  expect(day('2026-11-26', 'weekStart', -1, 'workingDay')).toBe('2026-11-20');
  expect(day('2026-04-06', 'financialYearStart', 0, 'day')).toBe('day.financialYear');
  expect(day('2026-04-06', 'financialYearStart', 0, 'day', { month: 2, day: 29 })).toBe('day.financialYear');
  expect(day('0001-02-01', 'financialYearStart', 0, 'day', april)).toBe('day.range');
});

test('working days are what counting day by day gives', () => {
  const days = fc.integer({ min: 0, max: 3_000_000 }).map((at) => shiftDay('0001-01-01', at)!);
  const isWorking = (date: string) => weekdayOf(date) <= 5;
  fc.assert(
    fc.property(days, fc.integer({ min: -40, max: 40 }), (from, count) => {
      let at = from;
      for (let left = Math.abs(count); left > 0; left -= isWorking(at) ? 1 : 0) {
        const next = shiftDay(at, Math.sign(count));
        if (next === null) return;
        at = next;
      }
      expect(workingDaysAfter(from, count)).toBe(at);
      let between = 0;
      for (let one = from; one < at; one = shiftDay(one, 1)!) between += isWorking(one) ? 1 : 0;
      if (from <= at) expect(workingDaysBetween(from, at)).toBe(between);
      expect(workingDaysBetween(at, from) + workingDaysBetween(from, at)).toBe(0);
    }),
  );
});

test('in words it says how far it is from what', () => {
  expect(relativeWords({ from: 'today', plus: 0, unit: 'month' })).toBe('today');
  expect(relativeWords({ from: 'today', plus: -6, unit: 'month' })).toBe('6 months before today');
  expect(relativeWords({ from: 'yearStart', plus: 1, unit: 'year' })).toBe(
    '1 year after the first of this year',
  );
  const financialYear = { month: 4, day: 6 };
  expect(relativeWords({ from: 'financialYearStart', plus: -2, unit: 'workingDay', financialYear })).toBe(
    '2 working days before the first of this financial year (since 6 April)',
  );
});

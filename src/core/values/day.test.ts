import dayjs from 'dayjs';
import fc from 'fast-check';
import { relativeDay, relativeWords } from './day';

const day = (
  today: string,
  from: 'today' | 'monthStart' | 'yearStart',
  plus: number,
  unit: 'day' | 'week' | 'month' | 'year',
) => {
  const result = relativeDay(today, { from, plus, unit });
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

test('in words it says how far it is from what', () => {
  expect(relativeWords({ from: 'today', plus: 0, unit: 'month' })).toBe('today');
  expect(relativeWords({ from: 'today', plus: -6, unit: 'month' })).toBe('6 months before today');
  expect(relativeWords({ from: 'yearStart', plus: 1, unit: 'year' })).toBe(
    '1 year after the first of this year',
  );
});

import { dayBegins } from './clock';
import { relativeMoment } from './day';

const begins = (zone: string, day: string) => new Date(dayBegins(zone, day)).toISOString();

test('a day begins by the clocks of its place, in summer and in winter', () => {
  expect(begins('Europe/London', '2027-01-15')).toBe('2027-01-15T00:00:00.000Z');
  expect(begins('Europe/London', '2027-07-15')).toBe('2027-07-14T23:00:00.000Z');
  expect(begins('Asia/Kolkata', '2027-07-15')).toBe('2027-07-14T18:30:00.000Z');
  expect(begins('Pacific/Kiritimati', '2027-01-01')).toBe('2026-12-31T10:00:00.000Z');
  expect(begins('UTC', '0001-01-01')).toBe('0001-01-01T00:00:00.000Z');
  expect(begins('UTC', '0099-12-31')).toBe('0099-12-31T00:00:00.000Z');
});

test('a midnight that the clocks leave out is the first instant after it, one that comes twice the first', () => {
  // In Beirut the clocks go from 0:00 to 1:00; in Havana from 1:00 back to 0:00.
  expect(begins('Asia/Beirut', '2027-03-28')).toBe('2027-03-27T22:00:00.000Z');
  expect(begins('America/Havana', '2026-11-01')).toBe('2026-11-01T04:00:00.000Z');
});

test('hours are counted from when a day began, whatever the clocks do in between', () => {
  const moment = (zone: string, day: string, plus: number) => {
    const found = relativeMoment(zone, day, { from: 'today', plus, unit: 'hour' });
    return found.ok ? found.value : found.problem.code;
  };
  expect(moment('Europe/London', '2027-07-15', -36)).toBe('2027-07-13T11:00:00.000Z');
  // The clocks went forward on the 28th: twelve hours before the 29th began it was eleven in the morning.
  expect(moment('Europe/London', '2027-03-29', -24)).toBe('2027-03-27T23:00:00.000Z');
  expect(moment('UTC', '2027-03-29', 0.5)).toBe('day.away');
  expect(moment('UTC', '2027-03-29', 4_001)).toBe('day.away');
  expect(moment('UTC', '0001-01-01', -1)).toBe('day.range');
});

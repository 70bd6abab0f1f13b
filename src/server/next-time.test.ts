import type { Timetable } from '@/core/model';
import { nextTime } from './next-time';

const at = (timetable: Omit<Timetable, 'kind'>, after: string, timeZone = 'Europe/London') =>
  nextTime({ kind: 'timetable', ...timetable }, timeZone, new Date(after)).toISOString();

test.each<[string, Omit<Timetable, 'kind'>, string, string]>([
  ['later today', { every: 'day', at: '06:00' }, '2026-11-26T05:59:59Z', '2026-11-26T06:00:00.000Z'],
  ['never at once again', { every: 'day', at: '06:00' }, '2026-11-26T06:00:00Z', '2026-11-27T06:00:00.000Z'],
  ['this hour', { every: 'hour', at: '00:15' }, '2026-11-26T12:10:00Z', '2026-11-26T12:15:00.000Z'],
  ['the next hour', { every: 'hour', at: '00:15' }, '2026-11-26T23:15:00Z', '2026-11-27T00:15:00.000Z'],
  // 26 November 2026 is a Thursday.
  [
    'later this week',
    { every: 'week', at: '06:00', weekday: 7 },
    '2026-11-26T12:00:00Z',
    '2026-11-29T06:00:00.000Z',
  ],
  [
    'the same day a week on',
    { every: 'week', at: '06:00', weekday: 4 },
    '2026-11-26T12:00:00Z',
    '2026-12-03T06:00:00.000Z',
  ],
  ['next month', { every: 'month', at: '06:00', day: 1 }, '2026-11-26T12:00:00Z', '2026-12-01T06:00:00.000Z'],
  [
    'over the end of a year',
    { every: 'month', at: '06:00', day: 5 },
    '2026-12-26T12:00:00Z',
    '2027-01-05T06:00:00.000Z',
  ],
  ['by summer time', { every: 'day', at: '06:00' }, '2026-07-01T12:00:00Z', '2026-07-02T05:00:00.000Z'],
  // The clocks go from 01:00 to 02:00 on 29 March 2026.
  [
    'a time left out comes an hour later',
    { every: 'day', at: '01:30' },
    '2026-03-28T12:00:00Z',
    '2026-03-29T01:30:00.000Z',
  ],
  [
    'a time that comes twice, once',
    { every: 'day', at: '01:30' },
    '2026-10-25T01:45:00Z',
    '2026-10-26T01:30:00.000Z',
  ],
])('a timetable comes round %s', (_, timetable, after, expected) => {
  expect(at(timetable, after)).toBe(expected);
});

test('it goes by the clocks of the workspace', () => {
  expect(at({ every: 'day', at: '06:00' }, '2026-11-26T12:00:00Z', 'Asia/Tokyo')).toBe(
    '2026-11-26T21:00:00.000Z',
  );
  expect(at({ every: 'day', at: '06:00' }, '2026-11-26T03:00:00Z', 'America/New_York')).toBe(
    '2026-11-26T11:00:00.000Z',
  );
});

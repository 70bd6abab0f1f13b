import type { Timetable } from '@/core/model';
import { clockAt } from '@/core/values';
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

test.each<[string, Omit<Timetable, 'kind'>, string, string, string]>([
  // New York, 14 March 2027: from 02:00 to 03:00.
  [
    'America/New_York',
    { every: 'day', at: '02:00' },
    '2027-03-13T12:00:00Z',
    '2027-03-14T07:00:00.000Z',
    'once',
  ],
  [
    'America/New_York',
    { every: 'day', at: '02:30' },
    '2027-03-14T07:30:00Z',
    '2027-03-15T06:30:00.000Z',
    'no more',
  ],
  [
    'America/New_York',
    { every: 'hour', at: '00:30' },
    '2027-03-14T06:30:00Z',
    '2027-03-14T07:30:00.000Z',
    'next',
  ],
  // Berlin, 25 October 2026: from 03:00 back to 02:00.
  [
    'Europe/Berlin',
    { every: 'day', at: '02:30' },
    '2026-10-25T00:30:00Z',
    '2026-10-26T01:30:00.000Z',
    'once',
  ],
  [
    'Europe/Berlin',
    { every: 'hour', at: '00:30' },
    '2026-10-25T00:30:00Z',
    '2026-10-25T01:30:00.000Z',
    'twice',
  ],
  // Troll, 31 October 2027: from 03:00 back to 01:00.
  [
    'Antarctica/Troll',
    { every: 'hour', at: '00:15' },
    '2027-10-31T00:15:00Z',
    '2027-10-31T01:15:00.000Z',
    'each',
  ],
  // Lord Howe, 4 October 2026: from 02:00 to 02:30.
  [
    'Australia/Lord_Howe',
    { every: 'hour', at: '00:15' },
    '2026-10-03T14:45:00Z',
    '2026-10-03T15:45:00.000Z',
    'later',
  ],
])('in %s %j comes round after %s at %s: %s', (timeZone, timetable, after, expected) => {
  expect(at(timetable, after, timeZone)).toBe(expected);
});

const FORMS: readonly Omit<Timetable, 'kind'>[] = [
  { every: 'hour', at: '00:00' },
  { every: 'hour', at: '00:30' },
  { every: 'day', at: '00:00' },
  { every: 'day', at: '01:30' },
  { every: 'day', at: '02:00' },
  { every: 'day', at: '02:45' },
  { every: 'day', at: '23:30' },
  { every: 'week', at: '01:30', weekday: 7 },
  { every: 'month', at: '02:30', day: 1 },
];
const HOUR = 3_600_000;
/** All of these years in the long tests, some of them in the others. */
const [BEGIN, END] = process.env.OIKON_LONG
  ? [Date.UTC(2020, 0, 1), Date.UTC(2041, 0, 1)]
  : [Date.UTC(2025, 0, 1), Date.UTC(2029, 0, 1)];

/** The instants from which on a zone's clocks go otherwise, with what they are ahead of UTC before and after. */
function changesIn(timeZone: string): { at: number; before: number; after: number }[] {
  const ahead = (instant: number) => clockAt(timeZone, instant) - instant;
  const found = [];
  for (let from = BEGIN; from < END; from += 7 * 24 * HOUR) {
    const to = from + 7 * 24 * HOUR;
    let [low, high] = [from, to];
    if (ahead(low) === ahead(high)) continue;
    while (high - low > 60_000) {
      const middle = low + Math.floor((high - low) / 120_000) * 60_000;
      if (ahead(middle) === ahead(from)) low = middle;
      else high = middle;
    }
    found.push({ at: high, before: ahead(low), after: ahead(high) });
  }
  return found;
}

/** All forms, and all changes of these years, are at quarters of hours. */
const QUARTER = HOUR / 4;

/** The same, as the definition says: quarter by quarter, what the clocks show. */
function plainly(
  { every, at: time, weekday = 1, day = 1 }: Omit<Timetable, 'kind'>,
  { at: change, before, after }: { at: number; before: number; after: number },
): number[] {
  const [hour, minute] = time.split(':').map(Number) as [number, number];
  const fits = (clock: number): boolean => {
    const shown = new Date(clock);
    if (shown.getUTCMinutes() !== minute) return false;
    if (every === 'hour') return true;
    if (shown.getUTCHours() !== hour) return false;
    return (
      every === 'day' ||
      (every === 'week' ? (shown.getUTCDay() || 7) === weekday : shown.getUTCDate() === day)
    );
  };
  const times: number[] = [];
  const seen = new Set<number>();
  for (let instant = change - 30 * HOUR; instant < change + 30 * HOUR; instant += QUARTER) {
    // A time that is left out comes when it would have by the clocks before.
    const isLeftOut = instant >= change && instant < change + (after - before);
    const shown = instant < change ? instant + before : instant + after;
    const clocks = isLeftOut ? [shown, instant + before] : [shown];
    if (!clocks.some((clock) => fits(clock) && (every === 'hour' || !seen.has(clock)))) continue;
    clocks.forEach((clock) => seen.add(clock));
    times.push(instant);
  }
  return times;
}

test('in every zone, at every change of the clocks, each time comes round once and none is left out', () => {
  // Zones that change alike are looked at once.
  const zones = new Map<string, string>();
  for (const zone of Intl.supportedValuesOf('timeZone')) {
    const key = JSON.stringify(changesIn(zone));
    if (!zones.has(key)) zones.set(key, zone);
  }
  expect(zones.size).toBeGreaterThan(30);
  for (const zone of zones.values())
    for (const change of changesIn(zone))
      for (const form of FORMS) {
        const expected = plainly(form, change).filter((time) => time <= change.at + 26 * HOUR);
        const timetable = { kind: 'timetable', ...form } as const;
        for (let after = change.at - 26 * HOUR; after <= change.at + 4 * HOUR; after += HOUR) {
          const wanted = expected.find((time) => time > after);
          const found = nextTime(timetable, zone, new Date(after)).getTime();
          if (!(found > after))
            throw new Error(`${zone} ${JSON.stringify(form)} after ${new Date(after).toISOString()}`);
          if (wanted !== undefined && found !== wanted)
            expect([zone, form, new Date(after), new Date(found)]).toEqual([
              ...[zone, form, new Date(after), new Date(wanted)],
            ]);
        }
      }
});

import { certain } from '@/core/values';
import type { Timetable } from '@/core/model';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

const formats = new Map<string, Intl.DateTimeFormat>();

function formatOf(timeZone: string): Intl.DateTimeFormat {
  let format = formats.get(timeZone);
  if (!format)
    formats.set(
      timeZone,
      (format = new Intl.DateTimeFormat('en-US', {
        ...{ timeZone, hourCycle: 'h23', year: 'numeric', month: 'numeric', day: 'numeric' },
        ...{ hour: 'numeric', minute: 'numeric', second: 'numeric' },
      })),
    );
  return format;
}

/** Most minutes of which is remembered how far a zone's clocks are ahead: asking for it takes as long as all else together. */
const MOST_REMEMBERED = 20_000;
const remembered = new Map<string, Map<number, number>>();

/** Milliseconds by which the clocks of a time zone are ahead of UTC. They change at whole minutes. */
function offsetAt(timeZone: string, instant: number): number {
  let known = remembered.get(timeZone);
  if (!known || known.size >= MOST_REMEMBERED) remembered.set(timeZone, (known = new Map<number, number>()));
  const minute = Math.floor(instant / 60_000);
  let offset = known.get(minute);
  if (offset === undefined)
    known.set(minute, (offset = clockOf(timeZone, minute * 60_000) - minute * 60_000));
  return offset;
}

/** What the clocks of a time zone show at an instant, as if it were UTC, in milliseconds. */
export const clockAt = (timeZone: string, instant: number): number => instant + offsetAt(timeZone, instant);

function clockOf(timeZone: string, instant: number): number {
  const parts: Partial<Record<Intl.DateTimeFormatPartTypes, number>> = {};
  for (const { type, value } of formatOf(timeZone).formatToParts(instant)) parts[type] = Number(value);
  const { year, month, day, hour, minute, second } = parts;
  return Date.UTC(certain(year), certain(month) - 1, certain(day), hour, minute, second);
}

/**
 * The instants at which the clocks of a time zone show a time (as if it were UTC), the earliest first: one; two where they are put back over
 * it; and where they are put forward over it the one that it would have been by the clocks before, so it comes later by as much as they
 * leave out. (As `Temporal` of ECMA-262 reads a time that isn't there, “compatible”.)
 */
function instantsOf(timeZone: string, clock: number): number[] {
  const before = offsetAt(timeZone, clock - DAY);
  const after = offsetAt(timeZone, clock + DAY);
  const found = [...new Set([clock - before, clock - after])]
    .filter((instant) => clockAt(timeZone, instant) === clock)
    .sort((a, b) => a - b);
  return found.length > 0 ? found : [clock - before];
}

/** No change of the clocks is longer, but for the few that left out a whole day, after which nothing comes twice. */
const LONGEST_CHANGE = 4 * HOUR;

/** The times of a timetable by the clocks, in their order, from some that went before what the clocks show. */
function* timesFrom({ every, at, weekday = 1, day = 1 }: Timetable, clock: number): Generator<number> {
  const [hour, minute] = at.split(':').map(Number) as [number, number];
  const shown = new Date(clock - LONGEST_CHANGE);
  const [year, month, date] = [shown.getUTCFullYear(), shown.getUTCMonth(), shown.getUTCDate()];
  const back = ((shown.getUTCDay() || 7) - weekday + 7) % 7;
  // Days and hours beyond the end of a month or a day run on into the next.
  for (let step = 0; ; step += 1) {
    if (every === 'hour') yield Date.UTC(year, month, date, shown.getUTCHours() + step, minute);
    else if (every === 'day') yield Date.UTC(year, month, date - 1 + step, hour, minute);
    else if (every === 'week') yield Date.UTC(year, month, date - back + 7 * (step - 1), hour, minute);
    else yield Date.UTC(year, month - 1 + step, day, hour, minute);
  }
}

/**
 * When a timetable comes round next, later than an instant, by the clocks of a time zone (IANA name). A time that a change of the clocks leaves
 * out comes later by as much as they leave out; one that comes twice counts once, the first time, but for what comes every hour: an
 * hour that comes twice is two.
 */
export function nextTime(timetable: Timetable, timeZone: string, after: Date): Date {
  const now = after.getTime();
  let next = Infinity;
  for (const clock of timesFrom(timetable, clockAt(timeZone, now))) {
    // Where the clocks are put back by more than an hour, a later hour may come before an earlier one comes again.
    if (next !== Infinity && clock > clockAt(timeZone, next) + LONGEST_CHANGE) break;
    const instants = instantsOf(timeZone, clock);
    const coming = timetable.every === 'hour' ? instants : instants.slice(0, 1);
    for (const instant of coming) if (instant > now && instant < next) next = instant;
  }
  return new Date(next);
}

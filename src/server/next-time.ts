import { clockAt, instantsOf } from '@/core/values';
import type { Timetable } from '@/core/model';

const HOUR = 3_600_000;

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

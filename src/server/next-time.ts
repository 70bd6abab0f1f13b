import type { Timetable } from '@/core/model';
import dayjs from 'dayjs';
import timezone from 'dayjs/plugin/timezone.js';
import utc from 'dayjs/plugin/utc.js';

dayjs.extend(utc);
dayjs.extend(timezone);

/**
 * When a timetable comes round next after an instant, by the clocks of a time zone (IANA name). A time that a change of the clocks leaves
 * out comes an hour later; one that comes twice, once.
 */
export function nextTime(
  { every, at, weekday = 1, day = 1 }: Timetable,
  timeZone: string,
  after: Date,
): Date {
  const now = dayjs(after).tz(timeZone);
  const [hour, minute] = at.split(':').map(Number) as [number, number];
  for (let step = 0; ; step += 1) {
    // Days are counted without clocks, and only then set to the time of the zone.
    const civil = dayjs.utc(now.format('YYYY-MM-DD'));
    if (every === 'hour') {
      const next = now.add(step, 'hour').minute(minute).second(0).millisecond(0);
      if (next.isAfter(now)) return next.toDate();
      continue;
    }
    const on =
      every === 'day'
        ? civil.add(step, 'day')
        : every === 'week'
          ? civil.add(((weekday - isoWeekday(civil) + 7) % 7) + step * 7, 'day')
          : civil.date(1).add(step, 'month').date(day);
    const text = `${on.format('YYYY-MM-DD')} ${String(hour).padStart(2, '0')}:${String(minute).padStart(2, '0')}`;
    const next = dayjs.tz(text, timeZone);
    if (next.isAfter(now)) return next.toDate();
  }
}

const isoWeekday = (day: dayjs.Dayjs): number => day.day() || 7;

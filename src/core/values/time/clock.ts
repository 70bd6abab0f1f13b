import { certain } from '@/core/basics/certain';

const DAY = 86_400_000;

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
  const shown = new Date(0);
  shown.setUTCFullYear(certain(year), certain(month) - 1, certain(day));
  return shown.setUTCHours(certain(hour), minute, second);
}

/**
 * The instants at which the clocks of a time zone show a time (as if it were UTC), the earliest first: one; two where they are put back over
 * it; and where they are put forward over it the one that it would have been by the clocks before, so it comes later by as much as they
 * leave out. (As `Temporal` of ECMA-262 reads a time that isn't there, “compatible”.)
 */
export function instantsOf(timeZone: string, clock: number): number[] {
  const before = offsetAt(timeZone, clock - DAY);
  const after = offsetAt(timeZone, clock + DAY);
  const found = [...new Set([clock - before, clock - after])]
    .filter((instant) => clockAt(timeZone, instant) === clock)
    .sort((a, b) => a - b);
  return found.length > 0 ? found : [clock - before];
}

/**
 * The instant at which a civil date begins by the clocks of a time zone (IANA name), in milliseconds since 1970: of a midnight that comes
 * twice the first, of one that is left out the first instant of that day.
 */
export function dayBegins(timeZone: string, date: string): number {
  const [year, month, day] = date.split('-').map(Number) as [number, number, number];
  const midnight = new Date(0);
  midnight.setUTCFullYear(year, month - 1, day);
  return certain(instantsOf(timeZone, midnight.getTime())[0]);
}

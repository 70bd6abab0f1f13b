import type { RunContext } from '@/core/expression';
import type { Model } from '@/core/model';

/** From a save of a rehearsal on: the day is another, or somebody else acts. What is left out stays as it was. */
export interface RunSetting {
  /** The number of the save, from 0. */
  readonly run: number;
  /** The settled day, which is moved to it before the save: a civil date. */
  readonly day?: string;
  /** Id of a person; `null`: Oikon itself. */
  readonly person?: string | null;
}

/** On which settled day a save is made, by whom and when. */
export interface Standpoint {
  readonly day: string;
  readonly facts: RunContext;
}

/**
 * Where the saves of a rehearsal stand. The clock stands still in it: the first save is made at noon of its day (UTC), each of the others a minute
 * after the one before, so that the same comes of it each time. Nobody acts until it is said who does.
 */
export function runScheduleOf(
  saves: number,
  day: string,
  settings: readonly RunSetting[] = [],
): readonly Standpoint[] {
  const found: Standpoint[] = [];
  for (let run = 0, at = { day, person: null as string | null }; run < saves; run += 1) {
    for (const { run: of, ...setting } of settings) if (of === run) at = { ...at, ...setting };
    found.push({ day: at.day, facts: { person: at.person, moment: momentOf(at.day, run) } });
  }
  return found;
}

/** The day of a model; where none is known nothing reads one. */
export const settledDayOf = ({ settledDay }: Pick<Model, 'settledDay'>): string => settledDay ?? '2027-01-01';

const NOON = 12 * 60;
const two = (part: number): string => String(part).padStart(2, '0');

function momentOf(day: string, run: number): string {
  const minute = Math.min(NOON + run, 24 * 60 - 1);
  return `${day}T${two(Math.floor(minute / 60))}:${two(minute % 60)}:00.000Z`;
}

/** The days on which a rehearsal stands, the first one first. */
export const daysOf = (day: string, settings: readonly RunSetting[] = []): readonly string[] => [
  ...new Set([day, ...settings.flatMap((one) => one.day ?? [])]),
];

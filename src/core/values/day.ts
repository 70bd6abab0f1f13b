import { bad, good, type Result } from './problem';

export type DayUnit = 'day' | 'week' | 'month' | 'year';

/** From which day a relative date counts. */
export type DayBase = 'today' | 'monthStart' | 'yearStart';

/** A date relative to a day: some days, weeks, months or years from it, or from the start of its month or year. */
export interface RelativeDay {
  readonly from: DayBase;
  /** Whole; negative for earlier. */
  readonly plus: number;
  readonly unit: DayUnit;
}

/** Most that a relative date may be away, in its unit. */
export const MOST_AWAY = 4_000;

/**
 * The civil date that a relative one comes to on a day (`2026-03-31` and one month earlier: `2026-02-28`, the last day where a month
 * is shorter). Refuses what isn't in the years 1 to 9999.
 */
export function relativeDay(today: string, { from, plus, unit }: RelativeDay): Result<string> {
  if (!Number.isInteger(plus) || Math.abs(plus) > MOST_AWAY)
    return bad(
      'day.away',
      `Expected a whole number up to ${MOST_AWAY} either way, found ${plus}. Enter another.`,
    );
  const [year, month, day] = today.split('-').map(Number) as [number, number, number];
  const start = from === 'yearStart' ? [year, 1, 1] : [year, month, from === 'monthStart' ? 1 : day];
  const [y, m, d] = start as [number, number, number];
  const months = unit === 'month' ? plus : unit === 'year' ? plus * 12 : 0;
  const days = unit === 'day' ? plus : unit === 'week' ? plus * 7 : 0;
  const moved = y * 12 + (m - 1) + months;
  const [toYear, toMonth] = [Math.floor(moved / 12), moved % 12];
  const date = utc(toYear, toMonth, 1);
  date.setUTCDate(Math.min(d, utc(toYear, toMonth + 1, 0).getUTCDate()) + days);
  const found = date.getUTCFullYear();
  if (found < 1 || found > 9999)
    return bad('day.range', 'This date lies outside the years 1 to 9999. Enter a smaller number.');
  return good(date.toISOString().slice(0, 10).padStart(10, '0'));
}

/** A day's midnight in UTC, for years below 100 too. */
function utc(year: number, month: number, day: number): Date {
  const date = new Date(0);
  date.setUTCFullYear(year, month, day);
  return date;
}

const BASES: Record<DayBase, string> = {
  today: 'today',
  monthStart: 'the first of this month',
  yearStart: 'the first of this year',
};

/** A relative date in words: `6 months before today`. */
export function relativeWords({ from, plus, unit }: RelativeDay): string {
  if (plus === 0) return BASES[from];
  const number = Math.abs(plus);
  return `${number} ${unit}${number === 1 ? '' : 's'} ${plus < 0 ? 'before' : 'after'} ${BASES[from]}`;
}

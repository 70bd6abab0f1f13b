import type { Model } from '@/core/model';
import { bad, good, type Result } from '@/core/values';

/** The time zone by whose clocks the days and hours of moments go; refused where a model knows none, rather than taking any. */
export const zoneOf = ({ timeZone }: Pick<Model, 'timeZone'>): Result<string> =>
  timeZone === null
    ? bad('expression.day', 'No time zone is known here, by whose clocks days and hours go. Enter a moment.')
    : good(timeZone);
